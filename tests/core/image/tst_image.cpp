// Height pictures, stamps and PNG files, against their definitions and Qt's own reader.
#include "support/run.h"
#include "base/random.h"
#include "image/picture.h"
#include "image/picture_file.h"

#include <QtTest>
#include <QImage>

#include <cmath>
#include <set>

using namespace bonemoss;
using image::HeightPicture;

namespace {

HeightPicture noise(int width, int height, std::uint64_t seed)
{
    HeightPicture p{width, height, {}, 0.5f};
    for (int i = 0; i < width * height; ++i)
        p.values.push_back(0.5f + 0.2f * randomSigned(seed, std::uint64_t(i)));
    return p;
}

double meanOf(const std::vector<float> &values)
{
    double sum = 0;
    for (const float v : values)
        sum += double(v);
    return sum / double(values.size());
}

/// Mean squared distance from the middle, of some columns and rows.
double contrast(const HeightPicture &p, int x0, int x1)
{
    double sum = 0;
    for (int y = 0; y < p.height; ++y)
        for (int x = x0; x < x1; ++x)
            sum += std::pow(double(p.values[std::size_t(y * p.width + x)] - p.middle), 2);
    return sum / (p.height * (x1 - x0));
}

} // namespace

class TestImage : public QObject
{
    Q_OBJECT
private slots:
    // Bilinear sampling by its definition: pixels' middles at (i + 0.5) / n, weights of four of them, repeated at the borders.
    void samplingIsBilinearAndRepeats()
    {
        const HeightPicture p = noise(7, 5, 1);
        const auto pixel = [&](int x, int y) { return double(p.values[std::size_t((y % 5 + 5) % 5 * 7 + (x % 7 + 7) % 7)]); };
        for (int y = 0; y < 5; ++y)
            for (int x = 0; x < 7; ++x)
                QVERIFY(std::abs(double(p.at((float(x) + 0.5f) / 7, (float(y) + 0.5f) / 5)) - pixel(x, y)) < 1e-5);
        for (std::uint64_t k = 0; k < 1000; ++k) {
            const float u = 3 * randomSigned(2, 2 * k), v = 3 * randomSigned(2, 2 * k + 1);
            const double x = double(u) * 7 - 0.5, y = double(v) * 5 - 0.5;
            double want = 0;
            for (int j = 0; j < 2; ++j)
                for (int i = 0; i < 2; ++i)
                    want += pixel(int(std::floor(x)) + i, int(std::floor(y)) + j) * (1 - std::abs(x - (std::floor(x) + i)))
                            * (1 - std::abs(y - (std::floor(y) + j)));
            QVERIFY(std::abs(double(p.at(u, v)) - want) < 1e-5);
        }
    }
    void sixteenBitsAreWholeSteps()
    {
        HeightPicture p = noise(16, 16, 3);
        p.values[0] = -2, p.values[1] = 7;
        const HeightPicture before = p;
        toSixteenBits(p);
        for (std::size_t i = 0; i < p.values.size(); ++i) {
            const double steps = double(p.values[i]) * 65535;
            QVERIFY(std::abs(steps - std::round(steps)) < 0.01);
            QVERIFY(i < 2 || std::abs(p.values[i] - before.values[i]) <= 0.5f / 65535 + 1e-7f);
        }
        QCOMPARE(p.values[0], 0.0f);
        QCOMPARE(p.values[1], 1.0f);
        const std::vector<float> once = p.values;
        toSixteenBits(p);
        QVERIFY(p.values == once);
    }
    // Heitz & Neyret 2018, section 3: a blend by weights over the root of the sum of their squares keeps the variance of noise,
    // where a plain blend would halve it half way. And the borders meet: the step over them is as any other.
    void tileableHasNoSeamAndKeepsItsContrast()
    {
        constexpr int n = 128;
        HeightPicture ramp{n, n, {}, 0.5f}; // noise over a slope: as it is, it does not meet at its borders
        for (int y = 0; y < n; ++y)
            for (int x = 0; x < n; ++x)
                ramp.values.push_back(0.3f + 0.4f * float(x) / n + 0.02f * randomSigned(4, std::uint64_t(y * n + x)));
        const HeightPicture met = image::tileable(ramp);
        double within = 0, over = 0, overBefore = 0;
        for (int y = 0; y < n; ++y) {
            const auto at = [&](const HeightPicture &p, int x) { return double(p.values[std::size_t(y * n + x)]); };
            for (int x = 8; x < n - 8; ++x)
                within += std::abs(at(met, x + 1) - at(met, x)) / (n - 16) / n;
            over += std::abs(at(met, 0) - at(met, n - 1)) / n;
            overBefore += std::abs(at(ramp, 0) - at(ramp, n - 1)) / n;
        }
        QVERIFY2(overBefore > 0.35 && over < 2 * within, qPrintable(QString("%1 %2").arg(over).arg(within)));
        const HeightPicture even = noise(n, n, 5), blended = image::tileable(even);
        const double whole = contrast(even, 0, n);
        for (int x = 0; x < n; x += 16)
            QVERIFY(std::abs(contrast(blended, x, x + 16) / whole - 1) < 0.12); // 2048 draws: some 3 % either way
        const HeightPicture flat = image::tileable({8, 8, std::vector<float>(64, 0.5f), 0.5f});
        for (const float v : flat.values)
            QCOMPARE(v, 0.5f);
    }
    void stampsAreWhatTheyAreSaidToBe()
    {
        const auto &names = image::builtInStamps();
        QVERIFY(names.size() >= 30);
        QCOMPARE(std::set<std::string_view>(names.begin(), names.end()).size(), names.size());
        for (const std::string_view name : names) {
            const HeightPicture *stamp = image::builtInStamp(name);
            QVERIFY(stamp && stamp == image::builtInStamp(name)); // kept
            QVERIFY(!image::folderOfStamp(name).empty());
            QCOMPARE(stamp->values.size(), std::size_t(stamp->width) * std::size_t(stamp->height));
            const auto [least, most] = std::minmax_element(stamp->values.begin(), stamp->values.end());
            QVERIFY(*least >= 0 && *most <= 1 && *most - *least > 0.15f);
            // Drawn anew at another size it is the same picture.
            const HeightPicture small = image::drawStamp(name, 48);
            QCOMPARE(small.values.size(), std::size_t(48 * 48));
            double off = 0;
            for (int y = 0; y < 48; ++y)
                for (int x = 0; x < 48; ++x)
                    off += std::abs(double(small.values[std::size_t(y * 48 + x)]
                                           - stamp->at((float(x) + 0.5f) / 48, (float(y) + 0.5f) / 48)))
                           / (48 * 48);
            QVERIFY2(off < 0.03 && std::abs(meanOf(small.values) - meanOf(stamp->values)) < 0.02,
                     (std::string(name) + " " + std::to_string(off)).c_str());
        }
        QVERIFY(!image::builtInStamp("no such stamp"));
        QVERIFY(image::folderOfStamp("no such stamp").empty());
        QVERIFY(image::drawStamp("no such stamp", 16).values.empty());
    }
    // Oracle: Qt's reader of PNG.
    void pngIsReadBack()
    {
        QTemporaryDir dir;
        const QString path = dir.filePath("a.png");
        image::ColourPicture p{13, 9, {}};
        for (std::uint64_t i = 0; i < 13 * 9 * 4; ++i)
            p.rgba.push_back(i % 4 == 3 ? (i % 8 == 3 ? 255 : 120) : std::uint8_t(randomBits(6, i)));
        QVERIFY(bool(image::writePng(path.toStdString(), p)));
        const QImage back = QImage(path).convertToFormat(QImage::Format_RGBA8888);
        QCOMPARE(back.size(), QSize(13, 9));
        for (int y = 0; y < 9; ++y)
            QVERIFY(std::memcmp(back.constScanLine(y), &p.rgba[std::size_t(y) * 13 * 4], 13 * 4) == 0);
        QCOMPARE(QDir(dir.path()).entryList(QDir::Files), QStringList{"a.png"});
        // What cannot be written is said, and what is there stays.
        const auto wrong = image::writePng(dir.filePath("none/a.png").toStdString(), p);
        QVERIFY(!wrong && wrong.error().code == ErrorCode::Unwritable);
        QVERIFY(QDir(dir.path()).mkdir("b.png"));
        QVERIFY(!image::writePng(dir.filePath("b.png").toStdString(), p));
        QVERIFY(QFileInfo(dir.filePath("b.png")).isDir());
    }
    // First bytes by ISO 15948, ITU T.81 (start of image), TIFF 6.0 (and its 64-bit kind) and OpenEXR's file layout.
    void kindsAreToldByFirstBytes_data()
    {
        QTest::addColumn<QByteArray>("bytes");
        QTest::addColumn<QString>("kind");
        QTest::newRow("PNG") << QByteArray("\x89PNG\r\n\x1a\nmore", 12) << "png";
        QTest::newRow("PNG spoilt by text transfer") << QByteArray("\x89PNG\n\x1a\nmore", 11) << "";
        QTest::newRow("JPEG") << QByteArray("\xff\xd8\xff\xe0more", 8) << "jpeg";
        QTest::newRow("TIFF, least first") << QByteArray("II*\0more", 8) << "tiff";
        QTest::newRow("TIFF, most first") << QByteArray("MM\0*more", 8) << "tiff";
        QTest::newRow("TIFF of 64 bits") << QByteArray("II+\0more", 8) << "tiff";
        QTest::newRow("EXR") << QByteArray("\x76\x2f\x31\x01more", 8) << "exr";
        QTest::newRow("cut off") << QByteArray("\x89PN", 3) << "";
        QTest::newRow("none") << QByteArray() << "";
        QTest::newRow("text") << QByteArray("solid ball") << "";
    }
    void kindsAreToldByFirstBytes()
    {
        QFETCH(QByteArray, bytes);
        QFETCH(QString, kind);
        const auto *at = reinterpret_cast<const std::byte *>(bytes.constData());
        const std::string_view got = image::pictureKind({at, std::size_t(bytes.size())});
        QCOMPARE(QString::fromUtf8(got.data(), qsizetype(got.size())), kind);
        if (kind.isEmpty()) {
            QVERIFY(!image::decodePicture({at, std::size_t(bytes.size())}));
            QCOMPARE(image::decodeHeights({at, std::size_t(bytes.size())}).error().code, ErrorCode::Unsupported);
        }
    }
    void filesThatAreNoneAreTold()
    {
        QTemporaryDir dir;
        QFile empty(dir.filePath("empty.png"));
        QVERIFY(empty.open(QIODevice::WriteOnly));
        empty.close();
        QCOMPARE(image::readPictureFile(dir.filePath("empty.png").toStdString()).error().code, ErrorCode::Empty);
        QCOMPARE(image::readPictureFile(dir.filePath("none.png").toStdString()).error().code, ErrorCode::Unreadable);
        QCOMPARE(image::readPictureFile(dir.path().toStdString()).error().code, ErrorCode::Unreadable);
    }
};

BONEMOSS_TEST(TestImage)
#include "tst_image.moc"
