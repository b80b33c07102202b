#include "app/dialogs/search_dialog.h"

#include "app/theme/theme.h"

#include <QDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

#include <algorithm>

namespace bonemoss::app {

namespace {

/// Small letters without accents.
QString plain(const QString &text)
{
    QString out;
    for (const QChar c : text.normalized(QString::NormalizationForm_KD).toLower())
        if (!c.isMark())
            out += c;
    return out;
}

constexpr int kMostShown = 200;

class SearchDialog : public QDialog
{
    Q_OBJECT
public:
    SearchDialog(QWidget *parent, const std::vector<Findable> &all) : QDialog(parent), m_all(all)
    {
        setObjectName(QStringLiteral("searchDialog"));
        setWindowTitle(tr("Find a command"));
        resize(520, 420);
        auto *column = new QVBoxLayout(this);
        m_query = new QLineEdit;
        m_query->setObjectName(QStringLiteral("searchQuery"));
        m_query->setPlaceholderText(tr("Action, tool, bench or setting"));
        m_query->setAccessibleName(tr("Words to find"));
        m_query->setClearButtonEnabled(true);
        m_query->installEventFilter(this); // the arrows move through what was found while one types
        m_list = new QListWidget;
        m_list->setObjectName(QStringLiteral("searchList"));
        m_list->setAccessibleName(tr("Found"));
        m_list->setFocusPolicy(Qt::NoFocus);
        m_none = new QLabel(tr("Nothing has these words."));
        m_none->setProperty("soft", true);
        column->addWidget(m_query);
        column->addWidget(m_list);
        column->addWidget(m_none);
        connect(m_query, &QLineEdit::textChanged, this, [this] { fill(); });
        connect(m_query, &QLineEdit::returnPressed, this, [this] { take(); });
        connect(m_list, &QListWidget::itemClicked, this, [this] { take(); });
        fill();
    }
    const Findable *taken() const { return m_taken; }

protected:
    bool eventFilter(QObject *watched, QEvent *e) override
    {
        if (e->type() == QEvent::KeyPress) {
            const int key = static_cast<QKeyEvent *>(e)->key();
            const int by = key == Qt::Key_Down       ? 1
                           : key == Qt::Key_Up       ? -1
                           : key == Qt::Key_PageDown ? 10
                           : key == Qt::Key_PageUp   ? -10
                                                     : 0;
            if (by) {
                m_list->setCurrentRow(std::clamp(m_list->currentRow() + by, 0, std::max(0, m_list->count() - 1)));
                return true;
            }
        }
        return QDialog::eventFilter(watched, e);
    }

private:
    void fill()
    {
        m_found = found(m_all, m_query->text());
        if (m_found.size() > kMostShown)
            m_found.resize(kMostShown);
        m_list->clear();
        for (const Findable *f : m_found) {
            QString line = f->title + QStringLiteral("   ") + f->where;
            if (!f->key.isEmpty())
                line += QStringLiteral("   ") + f->key.toString(QKeySequence::NativeText);
            auto *item = new QListWidgetItem(line, m_list);
            if (!f->isEnabled) {
                item->setForeground(theme().softInk);
                item->setText(line + QStringLiteral("   ") + tr("(not now)"));
            }
        }
        m_list->setCurrentRow(m_found.empty() ? -1 : 0);
        m_none->setVisible(m_found.empty());
    }
    void take()
    {
        const int row = m_list->currentRow();
        if (row < 0 || !m_found[std::size_t(row)]->isEnabled)
            return;
        m_taken = m_found[std::size_t(row)];
        accept();
    }

    const std::vector<Findable> &m_all;
    std::vector<const Findable *> m_found;
    const Findable *m_taken = nullptr;
    QLineEdit *m_query = nullptr;
    QListWidget *m_list = nullptr;
    QLabel *m_none = nullptr;
};

} // namespace

std::vector<const Findable *> found(const std::vector<Findable> &all, const QString &query)
{
    const QString whole = plain(query).simplified();
    const QStringList words = whole.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    std::vector<std::pair<int, const Findable *>> ranked;
    for (const Findable &f : all) {
        const QString title = plain(f.title),
                      rest = title + QLatin1Char(' ') + plain(f.where) + QLatin1Char(' ') + plain(f.words);
        if (!std::all_of(words.begin(), words.end(), [&](const QString &w) { return rest.contains(w); }))
            continue;
        const bool isInTitle = std::all_of(words.begin(), words.end(), [&](const QString &w) { return title.contains(w); });
        ranked.push_back({title.startsWith(whole) ? 0 : isInTitle ? 1 : 2, &f});
    }
    std::stable_sort(ranked.begin(), ranked.end(), [](const auto &a, const auto &b) { return a.first < b.first; });
    std::vector<const Findable *> out;
    for (const auto &[rank, f] : ranked)
        out.push_back(f);
    return out;
}

void findByWords(QWidget *parent, const std::vector<Findable> &all)
{
    SearchDialog dialog(parent, all);
    if (dialog.exec() == QDialog::Accepted && dialog.taken())
        dialog.taken()->run();
}

} // namespace bonemoss::app

#include "search_dialog.moc"
