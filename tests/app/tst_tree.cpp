// The tree of the anatomy while one works, and the names of all that the keyboard reaches.
#include "app/benches/bench.h"
#include "support/run.h"
#include "support/window_bench.h"

#include <QAbstractButton>
#include <QTreeWidget>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;

class TestTree : public QObject, private test::WindowBench
{
    Q_OBJECT
    QTreeWidget &tree() { return *find<QTreeWidget>("anatomyTree"); }
    QTreeWidgetItem *item(const char *name)
    {
        const auto found = tree().findItems(QLatin1String(name), Qt::MatchExactly | Qt::MatchRecursive);
        return found.isEmpty() ? nullptr : found.first();
    }

private slots:
    void initTestCase() { prepare(); }
    void init() { open(); }
    void cleanup() { close(); }

    // What is folded stays folded while one works; what is new is open.
    void foldsOfTheTreeStay()
    {
        const auto add = [&](const char *name, const char *parent) {
            nlohmann::json c{{"do", "form.add"}, {"kind", "ball"}, {"name", name}, {"radius", 5}};
            if (parent)
                c["parent"] = parent;
            QVERIFY(session().run(c));
        };
        add("trunk", nullptr);
        add("limb", "trunk");
        add("toe", "limb");
        QVERIFY(item("trunk")->isExpanded() && item("limb")->isExpanded());
        QTreeWidgetItem *trunk = item("trunk");
        item("limb")->setExpanded(false);
        add("horn", "trunk");
        QVERIFY(item("trunk") == trunk && trunk->isExpanded() && trunk->childCount() == 2);
        QVERIFY(!item("limb")->isExpanded());
        QVERIFY(session().run({{"do", "form.set"}, {"form", "limb"}, {"parent", 0u}})); // it moves with what hangs from it
        QVERIFY(item("limb")->parent() == nullptr && !item("limb")->isExpanded() && item("toe")->parent() == item("limb"));
        session().undo();
        QVERIFY(item("limb")->parent() == trunk);
        session().undo(); // the horn is gone
        QVERIFY(!item("horn") && item("trunk") == trunk && trunk->childCount() == 1);
        QVERIFY(session().run({{"do", "form.remove"}, {"form", "trunk"}}));
        QCOMPARE(tree().topLevelItemCount(), 0);
        session().undo();
        QCOMPARE(tree().topLevelItemCount(), 1);
        QVERIFY(item("toe"));
    }
    // Everything the keyboard can reach says what it is. (Qt's own parts of a control, as the field of a spin box, speak by it.)
    void everyControlHasAName()
    {
        knitBall();
        QStringList missing;
        const auto look = [&](const QString &where) {
            QTest::qWait(30);
            for (const QWidget *w : window().findChildren<QWidget *>()) {
                if (!w->isVisible() || w->focusPolicy() == Qt::NoFocus || w->objectName().startsWith("qt_"))
                    continue;
                const auto *button = qobject_cast<const QAbstractButton *>(w);
                if (w->accessibleName().isEmpty() && !(button && !button->text().isEmpty()))
                    missing << QStringLiteral("%1 %2 \"%3\"").arg(where, w->metaObject()->className(), w->objectName());
            }
        };
        for (const BenchRow &bench : benches()) {
            session().setBench(bench.bench);
            look(bench.id);
            for (const sculpt::Tool tool : bench.tools) {
                window().hand().setTool(tool);
                look(QStringLiteral("%1 %2").arg(bench.id).arg(QString::fromUtf8(nameOf(tool).data())));
            }
        }
        session().setBench(benchThat(&BenchRow::showsForms));
        session().chooseForms({session().creature().armature.forms.front().id});
        for (int tile = 0; tile < 18; ++tile) {
            window().hand().armature().setFormTile(FormTile(tile));
            look(QStringLiteral("tile %1").arg(tile));
        }
        QVERIFY2(missing.isEmpty(), qPrintable(missing.join('\n')));
    }
};

BONEMOSS_TEST(TestTree)
#include "tst_tree.moc"
