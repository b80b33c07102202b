#include "app/dialogs/dialogs.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>

#include <algorithm>

namespace bonemoss::app {

namespace {

/// A file dialog that knows which endings can be written, and adds the one that is chosen before anything else is asked.
class SaveDialog : public QFileDialog
{
public:
    SaveDialog(QWidget *parent, const QString &title, const QString &suggestion, const std::vector<SaveKind> &kinds)
        : QFileDialog(parent, title), m_kinds(kinds)
    {
        setObjectName(QStringLiteral("saveDialog"));
        setAcceptMode(AcceptSave);
        setFileMode(AnyFile);
        setOption(DontUseNativeDialog); // a native one asks about replacing before the ending is known
        QStringList filters;
        for (const SaveKind &k : kinds)
            filters << QStringLiteral("%1 (*.%2)").arg(k.title, k.ending);
        setNameFilters(filters);
        const QFileInfo start(suggestion);
        if (!suggestion.isEmpty()) {
            if (start.dir().exists())
                setDirectory(start.dir());
            selectFile(start.fileName());
        }
        for (std::size_t k = 0; k < kinds.size(); ++k)
            if (suggestion.endsWith(QLatin1Char('.') + kinds[k].ending, Qt::CaseInsensitive))
                selectNameFilter(filters[qsizetype(k)]);
        follow();
        connect(this, &QFileDialog::filterSelected, this, [this] { follow(); });
    }

    void accept() override
    {
        const QString name = selectedFiles().value(0);
        if (QFileInfo(name).isDir())
            return QFileDialog::accept();
        const bool isKnown = std::any_of(m_kinds.begin(), m_kinds.end(), [&](const SaveKind &k) {
            return name.endsWith(QLatin1Char('.') + k.ending, Qt::CaseInsensitive);
        });
        if (isKnown)
            return QFileDialog::accept();
        const SaveKind &kind = chosen();
        const QString last = QFileInfo(name).suffix();
        // What looks like an ending may be part of the name, as in "moor.2".
        if (kind.ending.contains(QLatin1Char('.')) || m_kinds.size() == 1 || last.isEmpty()) {
            selectFile(name + QLatin1Char('.') + kind.ending);
            return QFileDialog::accept();
        }
        QStringList endings;
        for (const SaveKind &k : m_kinds)
            endings << QLatin1Char('.') + k.ending;
        QMessageBox box(QMessageBox::NoIcon, tr("Unknown ending"),
                        tr("Files that end in .%1 cannot be written. These can: %2. Nothing was written yet.")
                            .arg(last, endings.join(QStringLiteral(", "))),
                        QMessageBox::Ok, this);
        box.setObjectName(QStringLiteral("endingBox"));
        box.exec();
    }

private:
    const SaveKind &chosen() const
    {
        const qsizetype at = nameFilters().indexOf(selectedNameFilter());
        return m_kinds[std::size_t(std::max<qsizetype>(0, at))];
    }
    void follow() { setDefaultSuffix(chosen().ending); }
    std::vector<SaveKind> m_kinds;
};

} // namespace

QString askSavePath(QWidget *parent, const QString &title, const QString &suggestion, const std::vector<SaveKind> &kinds)
{
    SaveDialog dialog(parent, title, suggestion, kinds);
    return dialog.exec() == QDialog::Accepted ? dialog.selectedFiles().value(0) : QString();
}

} // namespace bonemoss::app
