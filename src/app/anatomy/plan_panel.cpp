#include "app/anatomy/plan_panel.h"

#include "app/theme/theme.h"

#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace bonemoss::app {

PlanPanel::PlanPanel(QWidget *parent) : QWidget(parent)
{
    setObjectName(QStringLiteral("panel"));
    setAttribute(Qt::WA_StyledBackground);
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(12, 8, 8, 6);
    auto *words = new QHBoxLayout;
    words->setSpacing(14);
    words->addStretch();
    column->addLayout(words);
    m_pages = new QStackedWidget;
    column->addWidget(m_pages);
}

void PlanPanel::addPage(const QString &word, const QString &id, QWidget *page)
{
    auto *button = new QPushButton(word);
    button->setObjectName(id);
    button->setCheckable(true);
    button->setAutoExclusive(true);
    button->setProperty("planWord", true);
    auto *words = qobject_cast<QHBoxLayout *>(layout()->itemAt(0)->layout());
    words->insertWidget(words->count() - 1, button);
    m_words.push_back(button);
    m_pages->addWidget(page);
    connect(button, &QPushButton::clicked, this, [this, page] { showPage(page); });
    showPage(m_pages->widget(0));
}

void PlanPanel::showPage(const QWidget *page)
{
    for (int i = 0; i < m_pages->count(); ++i)
        if (m_pages->widget(i) == page) {
            m_pages->setCurrentIndex(i);
            m_words[std::size_t(i)]->setChecked(true);
        }
}

QWidget *PlanPanel::current() const
{
    return m_pages->currentWidget();
}

} // namespace bonemoss::app
