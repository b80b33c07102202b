// Files are put in place whole (rename(2) is atomic: POSIX.1-2017) and locks are the system's (flock(2)); text is UTF-8 as RFC 3629
// has it.
#include "support/run.h"
#include "base/files.h"

#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include <csignal>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace bonemoss;

class TestFiles : public QObject
{
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path at(const char *name) { return m_dir.filePath(QLatin1String(name)).toStdString(); }
    static QByteArray bytes(const std::filesystem::path &path)
    {
        QFile f(QString::fromStdString(path.string()));
        return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray("(none)");
    }
    qsizetype count() { return QDir(m_dir.path()).entryList(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot).size(); }

private slots:
    void theOldFileStandsUntilTheNewOneIsWhole()
    {
        QVERIFY(bool(writeFile(at("a"), "old")));
        const qsizetype before = count();
        {
            auto file = NewFile::beside(at("a"));
            QVERIFY(file && file->write("half"));
            QCOMPARE(bytes(at("a")), QByteArray("old"));
        } // never committed
        QCOMPARE(bytes(at("a")), QByteArray("old"));
        QCOMPARE(count(), before);
        auto file = NewFile::beside(at("a"));
        QVERIFY(file && file->write("new") && file->commit());
        QCOMPARE(bytes(at("a")), QByteArray("new"));
        QCOMPARE(count(), before);
    }
    void twoWritersDoNotMeet()
    {
        auto one = NewFile::beside(at("b")), two = NewFile::beside(at("b"));
        QVERIFY(one && two && one->path() != two->path());
        QVERIFY(one->write("one") && two->write("two") && two->commit());
        QCOMPARE(bytes(at("b")), QByteArray("two"));
        QVERIFY(bool(one->commit()));
        QCOMPARE(bytes(at("b")), QByteArray("one"));
    }
    void permissionsAndLinksStay()
    {
        QVERIFY(bool(writeFile(at("real"), "1")));
        ::chmod(at("real").c_str(), 0640);
        std::filesystem::create_symlink("real", at("link"));
        QVERIFY(bool(writeFile(at("link"), "2")));
        QVERIFY(std::filesystem::is_symlink(at("link")));
        QCOMPARE(bytes(at("real")), QByteArray("2"));
        struct stat info = {};
        QCOMPARE(::stat(at("real").c_str(), &info), 0);
        QCOMPARE(info.st_mode & 0777, mode_t(0640));
    }
    void failuresAreWords()
    {
        QCOMPARE(writeFile("/proc/nowhere/x", "a").error().code, ErrorCode::Unwritable);
        QCOMPARE(writeFile(m_dir.path().toStdString(), "a").error().code, ErrorCode::Unwritable); // a folder
        QVERIFY(!writeFile("/dev/full/x", "a"));
        QCOMPARE(readFile(at("nobody")).error().code, ErrorCode::Unreadable);
        QCOMPARE(readFile(m_dir.path().toStdString()).error().code, ErrorCode::Unreadable);
        QCOMPARE(readFile("/dev/zero").error().code, ErrorCode::Unreadable);
        QVERIFY(bool(writeFile(at(std::string(250, 'n').c_str()), "a"))); // as long as names may nearly be
    }
    void aLockIsHeldByOne()
    {
        auto first = FileLock::take(at("l.lock"), "who");
        QVERIFY(std::holds_alternative<FileLock>(first));
        QCOMPARE(bytes(at("l.lock")), QByteArray("who"));
        QVERIFY(FileLock::isHeld(at("l.lock")));
        const auto second = FileLock::take(at("l.lock"));
        QCOMPARE(std::get<FileLock::Failure>(second), FileLock::Failure::Held);
        first = FileLock::Failure::Impossible; // let go
        QVERIFY(!FileLock::isHeld(at("l.lock")) && !std::filesystem::exists(at("l.lock")));
        const auto nowhere = FileLock::take("/proc/nowhere/l.lock");
        QCOMPARE(std::get<FileLock::Failure>(nowhere), FileLock::Failure::Impossible);
    }
    // However a process ends, its lock ends with it; its number may be anybody's by then.
    void aLockEndsWithItsProcess()
    {
        int ready[2];
        QCOMPARE(::pipe(ready), 0);
        const pid_t child = ::fork();
        if (child == 0) {
            const auto held = FileLock::take(at("p.lock"));
            const char ok = std::holds_alternative<FileLock>(held) ? 'y' : 'n';
            if (::write(ready[1], &ok, 1) == 1)
                ::pause();
            ::_exit(1);
        }
        char ok = 0;
        QCOMPARE(::read(ready[0], &ok, 1), ssize_t(1));
        QCOMPARE(ok, 'y');
        QVERIFY(FileLock::isHeld(at("p.lock")));
        ::kill(child, SIGKILL);
        int status = 0;
        ::waitpid(child, &status, 0);
        QVERIFY(std::filesystem::exists(at("p.lock"))); // the file stays, but nobody holds it
        QVERIFY(!FileLock::isHeld(at("p.lock")));
        QVERIFY(std::holds_alternative<FileLock>(FileLock::take(at("p.lock"))));
    }
    void textIsUtf8_data()
    {
        QTest::addColumn<QByteArray>("given");
        QTest::addColumn<bool>("isText");
        QTest::newRow("plain") << QByteArray("horn") << true;
        QTest::newRow("two, three and four bytes") << QByteArray("\xC3\xA4\xE2\x82\xAC\xF0\x9F\xA6\xB4") << true;
        QTest::newRow("Latin 1") << QByteArray("h\xF6rn") << false;
        QTest::newRow("cut short") << QByteArray("a\xE2\x82") << false;
        QTest::newRow("overlong") << QByteArray("\xC0\xAF") << false;
        QTest::newRow("half of a pair") << QByteArray("\xED\xA0\x80") << false;
        QTest::newRow("beyond the last") << QByteArray("\xF4\x90\x80\x80") << false;
    }
    void textIsUtf8()
    {
        QFETCH(QByteArray, given);
        QFETCH(bool, isText);
        const std::string shown = shownPath(given.toStdString());
        QCOMPARE(shown == given.toStdString(), isText);
        QStringDecoder decoder(QStringDecoder::Utf8); // another decoder finds nothing wrong with it
        const QString read = decoder(QByteArray::fromStdString(shown));
        QVERIFY(!decoder.hasError() && read.isEmpty() == given.isEmpty());
    }
};

BONEMOSS_TEST(TestFiles)
#include "tst_files.moc"
