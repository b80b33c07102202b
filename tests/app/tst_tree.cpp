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
    /// What the keyboard can reach in a window and that does not say what it is. (Qt's own parts of a control, as the field of a
    /// spin box, speak by it.)
    static QStringList nameless(const QString &where, const QWidget &in)
    {
        QStringList missing;
        QList<const QObject *> labelled;
        for (const QLabel *l : in.findChildren<QLabel *>())
            labelled << l->buddy();
        for (const QWidget *w : in.findChildren<QWidget *>()) {
            if (!w->isVisible() || w->focusPolicy() == Qt::NoFocus || w->objectName().startsWith("qt_") || labelled.contains(w))
                continue;
            const auto *button = qobject_cast<const QAbstractButton *>(w);
            if (w->accessibleName().isEmpty() && !(button && !button->text().isEmpty()))
                missing << QStringLiteral("%1 %2 \"%3\"").arg(where, w->metaObject()->className(), w->objectName());
        }
        return missing;
    }
    /// Each entry of a menu that asks something: what is in its dialog says what it is, and Escape closes it and changes nothing.
    void everyDialogHasNamesAndEndsOnEscape()
    {
        knitBall();
        const auto before = session().share();
        QStringList missing, stuck;
        QSet<QString> seen;
        for (QAction *action : window().findChildren<QAction *>()) {
            if (!action->text().endsWith(QStringLiteral("…")) || !action->isEnabled() || action->menu())
                continue;
            int tries = 0;
            QTimer closer;
            connect(&closer, &QTimer::timeout, this, [&] {
                QWidget *dialog = QApplication::activeModalWidget();
                if (!dialog || dialog->objectName() == "progressDialog")
                    return;
                if (tries++ == 0 && !qobject_cast<QFileDialog *>(dialog)) {
                    missing += nameless(action->objectName(), *dialog);
                    seen << dialog->objectName();
                }
                if (tries < 5)
                    QTest::keyClick(dialog, Qt::Key_Escape);
                else {
                    stuck << action->objectName();
                    dialog->close();
                }
            });
            closer.start(20);
            action->trigger();
            QTest::qWait(40);
        }
        QVERIFY2(missing.isEmpty(), qPrintable(missing.join('\n')));
        QVERIFY2(stuck.isEmpty(), qPrintable(stuck.join('\n')));
        for (const char *dialog : {"densityDialog", "commandDialog", "historyDialog", "keysDialog", "searchDialog"})
            QVERIFY2(seen.contains(dialog), dialog);
        QVERIFY(session().share() == before);
    }
    void everyControlHasAName()
    {
        knitBall();
        QStringList missing;
        const auto look = [&](const QString &where) {
            QTest::qWait(30);
            missing += nameless(where, window());
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
