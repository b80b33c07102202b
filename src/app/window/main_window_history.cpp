// The list of steps, to go back and forth in.
#include "app/theme/table_words.h"
#include "app/window/main_window.h"

#include <QSettings>
#include <QDialog>
#include <QDialogButtonBox>
#include <QLabel>
#include <QListWidget>
#include <QSpinBox>
#include <QVBoxLayout>
#include <QHBoxLayout>
#include <QPushButton>

namespace bonemoss::app {

void MainWindow::showHistory()
{
    QDialog dialog(this);
    dialog.setObjectName(QStringLiteral("historyDialog"));
    dialog.setWindowTitle(tr("History"));
    dialog.resize(340, 480);
    auto *column = new QVBoxLayout(&dialog);
    auto *words = new QLabel;
    words->setWordWrap(true);
    column->addWidget(words);
    auto *list = new QListWidget;
    list->setObjectName(QStringLiteral("historyList"));
    list->setAccessibleName(tr("Steps"));
    const auto fill = [this, words, list] {
        const QSignalBlocker quiet(list);
        const command::History &history = m_session.history();
        words->setText(tr("Click a step to go there. Nothing is lost until you work on from an earlier one.")
                       + (history.dropped()
                              ? QLatin1Char('\n')
                                    + tr("It goes back %1 steps; the %2 before them were dropped to keep within the "
                                         "memory below.")
                                          .arg(history.steps().size() - 1)
                                          .arg(history.dropped())
                              : QString()));
        list->clear();
        for (const auto &step : history.steps())
            list->addItem(stepWords(step.title));
        list->setCurrentRow(int(history.at()));
    };
    fill();
    connect(list, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0)
            m_session.goTo(std::size_t(row));
    });
    column->addWidget(list);
    auto *line = new QHBoxLayout;
    auto *budget = new QSpinBox;
    budget->setObjectName(QStringLiteral("historyBudget"));
    budget->setRange(16, 1 << 20);
    budget->setSuffix(tr(" MB"));
    budget->setValue(int(m_session.history().budget() >> 20));
    budget->setToolTip(tr("Memory that undo may use. Past it the oldest steps are dropped; the creature itself is not counted."));
    auto *name = new QLabel(tr("Memory for &undo"));
    name->setBuddy(budget);
    line->addWidget(name);
    line->addWidget(budget);
    line->addStretch();
    line->addWidget(new QLabel(tr("%1 MB in use").arg(m_session.history().bytes() >> 20)));
    column->addLayout(line);
    connect(budget, &QSpinBox::editingFinished, this, [this, budget, fill] {
        QSettings().setValue(QStringLiteral("memory/undoMb"), budget->value());
        m_session.setHistoryBudget(std::size_t(budget->value()) << 20);
        fill();
    });
    dialog.exec();
}

} // namespace bonemoss::app
