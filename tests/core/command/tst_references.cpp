// Pictures to work from: read, kept, placed and lined up.
#include "support/run.h"
#include "command/command.h"
#include "store/store.h"
#include "image/picture_file.h"

#include <OpenImageIO/imageio.h>
#include <QImage>
#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using document::Creature, document::Reference;
using nlohmann::json;

class TestReferences : public QObject
{
    Q_OBJECT
    QTemporaryDir m_folder;
    std::string path(const char *name) const { return m_folder.filePath(QLatin1String(name)).toStdString(); }

    static Result<Creature> run(const Creature &c, const json &command)
    {
        command::CommandContext context;
        return command::apply(c, command, context);
    }
    /// A white sheet with a black beast of the given crown and ground rows.
    void draw(const char *name, QSize size, int crown, int ground, int left, int right)
    {
        QImage sheet(size, QImage::Format_RGB32);
        sheet.fill(Qt::white);
        for (int y = crown; y < ground; ++y)
            for (int x = left; x < right; ++x)
                sheet.setPixel(x, y, qRgb(0, 0, 0));
        QVERIFY(sheet.save(QString::fromStdString(path(name))));
    }
    Creature with(const char *name, const char *view, const json &more = {})
    {
        json c = {{"do", "picture.add"}, {"path", path(name)}, {"view", view}};
        c.update(more.is_null() ? json::object() : more);
        auto made = run({}, c);
        if (!made)
            qFatal("%s", made.error().text().c_str());
        return *made;
    }
    static std::array<int, 4> pixel(const image::ColourPicture &p, int x, int y)
    {
        const auto *at = &p.rgba[(std::size_t(y) * std::size_t(p.width) + std::size_t(x)) * 4];
        return {at[0], at[1], at[2], at[3]};
    }
    Result<image::ColourPicture> decode(const char *name, int most = 4096)
    {
        const auto bytes = image::readPictureFile(path(name));
        if (!bytes)
            return bytes.error();
        return image::decodePicture(*bytes, most);
    }

private slots:
    void png()
    {
        // Written by Qt, read by us.
        QImage q(3, 2, QImage::Format_RGBA8888);
        q.fill(QColor(10, 20, 30, 255));
        q.setPixelColor(2, 1, QColor(200, 100, 50, 128));
        QVERIFY(q.save(QString::fromStdString(path("a.png"))));
        const auto p = decode("a.png");
        QVERIFY2(p, p ? "" : p.error().text().c_str());
        QCOMPARE(p->width, 3);
        QCOMPARE(p->height, 2);
        QCOMPARE(pixel(*p, 0, 0), (std::array<int, 4>{10, 20, 30, 255}));
        QCOMPARE(pixel(*p, 2, 1), (std::array<int, 4>{200, 100, 50, 128})); // colour not darkened by its alpha
    }
    void jpeg()
    {
        QImage q(64, 64, QImage::Format_RGB32);
        q.fill(QColor(180, 90, 60));
        QVERIFY(q.save(QString::fromStdString(path("a.jpg")), "JPG", 95));
        const auto p = decode("a.jpg");
        QVERIFY(p);
        const auto c = pixel(*p, 30, 30);
        QVERIFY(std::abs(c[0] - 180) < 4 && std::abs(c[1] - 90) < 4 && std::abs(c[2] - 60) < 4 && c[3] == 255);
    }
    void tiff()
    {
        // TIFF 6.0 by hand: one strip, eight bits, grey, little-endian; tags of section 3 (bilevel and grey images).
        QByteArray t("II*\0\x08\0\0\0", 8);
        const auto put = [&](quint16 v) { t.append(char(v & 255)).append(char(v >> 8)); };
        const auto entry = [&](quint16 tag, quint16 value) { put(tag), put(3), put(1), put(0), put(value), put(0); };
        put(9);
        entry(256, 2), entry(257, 2), entry(258, 8), entry(259, 1), entry(262, 1), entry(273, 8 + 2 + 9 * 12 + 4), entry(277, 1);
        entry(278, 2), entry(279, 4);
        put(0), put(0);
        t.append(char(0)).append(char(85)).append(char(170)).append(char(255));
        QFile f(QString::fromStdString(path("a.tif")));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(t);
        f.close();
        const auto p = decode("a.tif");
        QVERIFY2(p, p ? "" : p.error().text().c_str());
        QCOMPARE(pixel(*p, 1, 0), (std::array<int, 4>{85, 85, 85, 255}));
        QCOMPARE(pixel(*p, 0, 1), (std::array<int, 4>{170, 170, 170, 255}));
    }
    void exr()
    {
        // Linear light 0.214041 is 0.5 on the sRGB curve (IEC 61966-2-1): byte 128 (127.5 rounded up).
        const float light[4 * 3] = {0, 0.214041f, 1, 7, -1, 0.5f, 0.001f, 0.0031308f, 0.18f, 0, 0, 0};
        const auto out = OIIO::ImageOutput::create("x.exr");
        OIIO::ImageSpec spec(4, 1, 3, OIIO::TypeDesc::FLOAT);
        QVERIFY(out->open(path("a.exr"), spec) && out->write_image(OIIO::TypeDesc::FLOAT, light) && out->close());
        const auto p = decode("a.exr");
        QVERIFY2(p, p ? "" : p.error().text().c_str());
        QVERIFY(std::abs(pixel(*p, 0, 0)[1] - 128) <= 1);
        QCOMPARE(pixel(*p, 0, 0)[2], 255);
        QCOMPARE(pixel(*p, 1, 0)[0], 255); // brighter than white, and below black
        QCOMPARE(pixel(*p, 1, 0)[1], 0);
        QVERIFY(std::abs(pixel(*p, 2, 0)[2] - 118) <= 1); // 18 % grey card: sRGB 0.4613, common practice, no source
    }
    void largeOnesAreShrunkByMeans()
    {
        QImage q(600, 300, QImage::Format_RGB32);
        for (int y = 0; y < 300; ++y)
            for (int x = 0; x < 600; ++x)
                q.setPixel(x, y, (x / 3 + y / 3) % 2 ? qRgb(255, 255, 255) : qRgb(0, 0, 0));
        QVERIFY(q.save(QString::fromStdString(path("fine.png"))));
        const auto whole = decode("fine.png", 600), small = decode("fine.png", 100);
        QVERIFY(whole && small);
        QCOMPARE(whole->width, 600);
        QCOMPARE(small->width, 100);
        QCOMPARE(small->height, 50);
        for (int x = 0; x < 100; ++x)
            QVERIFY(std::abs(pixel(*small, x, 20)[0] - 127) <= 1); // two black and two white squares in each
    }
    void badFilesAreRefused_data()
    {
        QTest::addColumn<QByteArray>("bytes");
        QTest::addColumn<QString>("word");
        QImage q(40, 40, QImage::Format_RGB32);
        q.fill(Qt::red);
        QByteArray png;
        QBuffer buffer(&png);
        buffer.open(QIODevice::WriteOnly);
        q.save(&buffer, "PNG");
        QTest::newRow("empty") << QByteArray() << "empty";
        QTest::newRow("text") << QByteArray("a drawing of a beast") << "PNG, JPEG, TIFF, EXR or HDR";
        QTest::newRow("cut in its head") << png.left(20) << "";
        QTest::newRow("a head alone") << QByteArray("\x89PNG\r\n\x1a\n", 8) << "";
        QByteArray huge = png; // claims 30,000 by 30,000; the head's checksum (PNG, annex D) fits
        for (const int at : {16, 20})
            huge[at] = 0, huge[at + 1] = 0, huge[at + 2] = char(0x75), huge[at + 3] = char(0x30);
        quint32 crc = 0xffffffffu;
        for (int i = 12; i < 29; ++i) {
            crc ^= quint8(huge[i]);
            for (int k = 0; k < 8; ++k)
                crc = crc & 1 ? (crc >> 1) ^ 0xedb88320u : crc >> 1;
        }
        crc = ~crc;
        for (int k = 0; k < 4; ++k)
            huge[29 + k] = char(crc >> (24 - 8 * k));
        QTest::newRow("30,000 pixels") << huge << "200 million";
        QTest::newRow("tiff to nowhere") << QByteArray("II*\0\xff\xff\xff\x7f", 8) << "";
        QTest::newRow("exr cut") << QByteArray("\x76\x2f\x31\x01\x02\0\0\0ch", 10) << "";
        QTest::newRow("jpeg cut") << QByteArray("\xff\xd8\xff\xe0\0\x10JFIF", 10) << "";
    }
    void badFilesAreRefused()
    {
        QFETCH(QByteArray, bytes);
        QFETCH(QString, word);
        QFile f(QString::fromStdString(path("bad")));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(bytes);
        f.close();
        const auto made = run({}, {{"do", "picture.add"}, {"path", path("bad")}});
        QVERIFY(!made);
        QVERIFY2(QString::fromStdString(made.error().text()).contains(word), made.error().text().c_str());
    }
    void missingFiles()
    {
        QVERIFY(!run({}, {{"do", "picture.add"}, {"path", path("none.png")}}));
        QVERIFY(!run({}, {{"do", "picture.add"}, {"path", m_folder.path().toStdString()}}));
    }
    void placesGoThereAndBack()
    {
        draw("p.png", {400, 200}, 20, 180, 100, 300);
        for (const char *view : {"nose", "left", "tail", "right", "crown", "belly"}) {
            const Creature c = with("p.png", view, {{"middle", {7, 30}}, {"height", 90}, {"turn", 25}});
            const Reference &r = c.references[0];
            for (const auto &[u, v] : {std::pair{0.0f, 0.0f}, {1.0f, 0.3f}, {0.2f, 1.0f}}) {
                const auto back = pointOf(r, placeOf(r, {u, v}));
                QVERIFY(std::abs(back.u - u) < 1e-5f && std::abs(back.v - v) < 1e-5f);
            }
            const float across = length(placeOf(r, {1, 0.5f}) - placeOf(r, {0, 0.5f}));
            QVERIFY(std::abs(across - 180) < 1e-3f); // twice as wide as high
        }
        // Seen from the left flank the nose points left: the left edge lies towards it (+z), the top edge up (+y).
        const Creature c = with("p.png", "left", {{"middle", {0, 0}}, {"height", 100}});
        QVERIFY(placeOf(c.references[0], {0, 0.5f}).z > 99 && std::abs(placeOf(c.references[0], {0.5f, 0}).y - 50) < 1e-4f);
        const Creature n = with("p.png", "nose", {{"middle", {0, 0}}, {"height", 100}});
        QVERIFY(placeOf(n.references[0], {1, 0.5f}).x > 99); // its left flank is at the right of the picture
    }
    void twoOfDifferentSizeLineUp()
    {
        // Worked by hand: rows 50 to 450 of 500 and 300 to 700 of 1000 are both the beast of 180 mm.
        draw("flank.png", {800, 500}, 50, 450, 100, 700);
        draw("front.png", {600, 1000}, 300, 700, 250, 450);
        Creature c = with("flank.png", "left");
        c = *run(c, {{"do", "picture.add"}, {"path", path("front.png")}, {"view", "nose"}, {"turn", 0}});
        command::CommandContext told;
        c = *command::apply(c, {{"do", "picture.lineup"}, {"picture", "flank"}, {"crown", {0.2, 0.1}}, {"ground", {0.6, 0.9}}},
                            told);
        QVERIFY(told.notes.size() == 1 && told.notes[0].text.find("-18.0 mm off, ground +18.0 mm") != std::string::npos);
        c = *run(c, {{"do", "picture.lineup"}, {"picture", "front"}, {"crown", {7.0 / 12, 0.3}}, {"ground", {7.0 / 12, 0.7}}});
        const Reference &flank = c.references[0], &front = c.references[1];
        QVERIFY(std::abs(flank.heightMm - 225) < 1e-3f); // 180 / 0.8
        QVERIFY(std::abs(front.heightMm - 450) < 1e-3f); // 180 / 0.4
        QVERIFY(std::abs(placeOf(flank, {0.5f, 0.1f}).y - 180) < 1e-3f && std::abs(placeOf(flank, {0.5f, 0.9f}).y) < 1e-3f);
        QVERIFY(std::abs(placeOf(front, {0.5f, 0.3f}).y - 180) < 1e-3f);
        QVERIFY(std::abs(placeOf(front, {7.0f / 12, 0.5f}).x) < 1e-3f); // the beast's middle, not the sheet's
        const auto fine = lineUpError(flank, 180);
        QVERIFY(fine && std::abs(fine->crown) < 1e-3f && std::abs(fine->ground) < 1e-3f);
        // Made a tenth larger about its middle it is off again, and says by how much.
        c = *run(c, {{"do", "picture.set"}, {"picture", "flank"}, {"height", 247.5}});
        const auto off = lineUpError(c.references[0], 180);
        QVERIFY(off && std::abs(off->crown - 9) < 1e-2f && std::abs(off->ground + 9) < 1e-2f);
        // Another final height: both are off until they are lined up again.
        c = *run(c, {{"do", "creature.height"}, {"mm", 200}});
        QVERIFY(std::abs(lineUpError(c.references[1], c.heightMm)->crown + 20) < 1e-2f);
    }
    void fromAboveTheLengthRules()
    {
        draw("above.png", {1000, 400}, 100, 300, 100, 900);
        Creature c = with("above.png", "crown");
        QVERIFY(!run(c, {{"do", "picture.lineup"}, {"picture", "above"}, {"crown", {0.9, 0.5}}, {"ground", {0.1, 0.5}}}));
        c = *run(
            c, {{"do", "picture.lineup"}, {"picture", "above"}, {"crown", {0.9, 0.5}}, {"ground", {0.1, 0.5}}, {"length", 240}});
        const Reference &r = c.references[0];
        QVERIFY(std::abs(placeOf(r, {0.9f, 0.5f}).z - 120) < 1e-3f && std::abs(placeOf(r, {0.1f, 0.5f}).z + 120) < 1e-3f);
        QVERIFY(std::abs(placeOf(r, {0.5f, 0.5f}).x) < 1e-3f);
    }
    void whatCannotBeLinedUp()
    {
        draw("p.png", {400, 200}, 20, 180, 100, 300);
        const json up = {{"do", "picture.lineup"}, {"picture", "p"}, {"crown", {0.5, 0.1}}, {"ground", {0.5, 0.9}}};
        QVERIFY(!run(with("p.png", "board"), up));
        json turned = up;
        std::swap(turned["crown"], turned["ground"]);
        QVERIFY(!run(with("p.png", "left"), turned));
        json same = up;
        same["ground"] = {0.5, 0.12};
        QVERIFY(!run(with("p.png", "left"), same));
        same["ground"] = {0.5};
        QVERIFY(!run(with("p.png", "left"), same));
        QVERIFY(!run(with("p.png", "left"), {{"do", "picture.set"}, {"picture", "q"}, {"opacity", 1}}));
        const Creature locked = with("p.png", "left", {{"locked", true}});
        QVERIFY(!run(locked, {{"do", "picture.set"}, {"picture", "p"}, {"turn", 3}}));
        QVERIFY(!run(locked, {{"do", "picture.remove"}, {"picture", "p"}}));
        QVERIFY(run(locked, {{"do", "picture.set"}, {"picture", "p"}, {"opacity", 0.6}}));
    }
    void keptInTheFile()
    {
        // Noise does not compress: the file is larger than one block of the store.
        QImage noise(1500, 1200, QImage::Format_RGB32);
        quint32 s = 1;
        for (int y = 0; y < noise.height(); ++y)
            for (int x = 0; x < noise.width(); ++x) {
                s = s * 1664525u + 1013904223u;
                noise.setPixel(x, y, 0xff000000u | (s >> 8));
            }
        QVERIFY(noise.save(QString::fromStdString(path("noise.png"))));
        Creature c = with("noise.png", "right", {{"over", true}, {"opacity", 0.7}, {"turn", -8}, {"hidden", true}});
        c = *run(c, {{"do", "picture.lineup"}, {"picture", "noise"}, {"crown", {0.5, 0.2}}, {"ground", {0.4, 0.8}}});
        QVERIFY(c.references[0].file->bytes.size() > (4u << 20));
        QVERIFY(store::saveAs(path("c.bonemoss"), c));
        QFile::remove(QString::fromStdString(path("noise.png"))); // the creature needs it no more
        const auto loaded = store::loadStore(path("c.bonemoss"));
        QVERIFY(loaded && loaded->damage.empty());
        const Reference &a = c.references[0], &b = loaded->creature.references.at(0);
        QVERIFY(a.file->bytes == b.file->bytes);
        QCOMPARE(b.name, a.name);
        QCOMPARE(b.view, a.view);
        QVERIFY(b.isOver && b.isHidden && !b.isLocked && b.opacity == a.opacity && b.rotation == a.rotation
                && b.across == a.across && b.up == a.up && b.heightMm == a.heightMm && b.crown == a.crown
                && b.ground == a.ground);
        QVERIFY(b.file->width == 1500 && b.file->height == 1200);
        // Saving again writes nothing of it.
        auto store = store::Store::open(path("c.bonemoss"));
        const auto saved = (*store)->save(*run(c, {{"do", "picture.set"}, {"picture", "noise"}, {"hidden", false}}));
        QVERIFY(saved && saved->blocksWritten == 0);
    }
};

BONEMOSS_TEST(TestReferences)
#include "tst_references.moc"
