// Everything that can be found by words.
#include "app/dialogs/search_dialog.h"
#include "app/hand/hand_panel.h"
#include "app/hand/tile.h"
#include "app/hand/value_slider.h"
#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "app/window/main_window.h"

#include <QAbstractSpinBox>
#include <QCheckBox>
#include <QComboBox>
#include <QMenu>
#include <QMenuBar>
#include <QPointer>
#include <QPushButton>

namespace bonemoss::app {

namespace {

QString bare(QString text)
{
    return text.remove(QLatin1Char('&')).remove(QStringLiteral("…"));
}

void gatherActions(const QList<QAction *> &actions, const QString &where, std::vector<Findable> &to)
{
    for (QAction *a : actions) {
        if (a->isSeparator() || a->text().isEmpty())
            continue;
        if (QMenu *menu = a->menu()) {
            emit menu->aboutToShow(); // some are filled only then
            gatherActions(menu->actions(), where.isEmpty() ? bare(a->text()) : where + QStringLiteral(" › ") + bare(a->text()),
                          to);
        } else if (a->objectName() != QStringLiteral("find")) {
            to.push_back({bare(a->text()), where, a->toolTip() == bare(a->text()) ? QString() : a->toolTip(), a->shortcut(),
                          a->isEnabled(), [a] { a->trigger(); }});
        }
    }
}

} // namespace

void MainWindow::find()
{
    std::vector<Findable> all;
    for (const BenchRow &bench : app::benches()) {
        const QKeySequence key = m_keys.keyOf(QStringLiteral("benchKey%1").arg(int(bench.bench) + 1));
        all.push_back({tr("%1 bench").arg(benchTitle(bench)), tr("Benches"), {}, key, true, [this, b = bench.bench] {
                           m_session.setBench(b);
                       }});
        for (int number = 1; const HandPart *part : bench.hand)
            for (std::size_t k = 0; k < part->count(bench); ++k, ++number) {
                const TileWords words = part->words(bench, k);
                all.push_back({words.title, benchTitle(bench), words.hint,
                               number <= Tile::kKeys ? QKeySequence(Tile::keyOf(number)) : QKeySequence(), true,
                               [this, &bench, part, k] {
                                   m_session.setBench(bench.bench);
                                   part->pick(m_hand, bench, k);
                               }});
            }
    }
    for (QWidget *w : m_handPanel->findChildren<QWidget *>()) {
        const bool isSetting = qobject_cast<ValueSlider *>(w) || qobject_cast<QAbstractSpinBox *>(w)
                               || qobject_cast<QComboBox *>(w) || qobject_cast<QCheckBox *>(w);
        const auto *box = qobject_cast<QCheckBox *>(w);
        const QString title = box ? bare(box->text()) : w->accessibleName();
        if (isSetting && w->isVisible() && !title.isEmpty())
            all.push_back({title, tr("Hand: settings"), w->toolTip(), {}, w->isEnabled(), [found = QPointer<QWidget>(w)] {
                               if (found) // the panel may have been made anew behind the dialog
                                   found->setFocus(Qt::ShortcutFocusReason);
                           }});
    }
    gatherActions(menuBar()->actions(), {}, all); // after tools of the same name
    findByWords(this, all);
}

} // namespace bonemoss::app
