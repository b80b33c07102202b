#include "app/dialogs/dialogs.h"

#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QDialogButtonBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QGridLayout>
#include <QHeaderView>
#include <QKeySequenceEdit>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QRadioButton>
#include <QSpinBox>
#include <QTableWidget>
#include <QTextBrowser>
#include <QTimer>
#include <QVBoxLayout>

#include <cmath>

namespace bonemoss::app {

namespace {

/// Context of its words.
struct DialogWords {
    Q_DECLARE_TR_FUNCTIONS(Dialogs)
};

} // namespace

std::optional<field::Density> askDensity(QWidget *parent, const QString &title, float startSpacing, float longestMm,
                                         const std::function<std::size_t(float)> &forecast)
{
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("densityDialog"));
    dialog.setWindowTitle(title);
    auto *column = new QVBoxLayout(&dialog);
    column->addWidget(heading(title, 15));
    auto *form = new QFormLayout;
    auto *bySpacing = new QRadioButton(DialogWords::tr("Spacing"));
    auto *byFaces = new QRadioButton(DialogWords::tr("Faces"));
    auto *spacing = new QDoubleSpinBox;
    spacing->setObjectName(QStringLiteral("spacing"));
    spacing->setAccessibleName(bySpacing->text());
    spacing->setRange(0.01, 100);
    spacing->setDecimals(3);
    spacing->setSingleStep(0.05);
    spacing->setSuffix(DialogWords::tr(" mm"));
    spacing->setValue(double(startSpacing));
    auto *faces = new QSpinBox;
    faces->setObjectName(QStringLiteral("faces"));
    faces->setAccessibleName(byFaces->text());
    faces->setRange(500, 20'000'000);
    faces->setSingleStep(10'000);
    faces->setGroupSeparatorShown(true);
    form->addRow(bySpacing, spacing);
    form->addRow(byFaces, faces);
    column->addLayout(form);
    auto *told = new QLabel;
    told->setObjectName(QStringLiteral("forecast"));
    told->setMinimumWidth(340);
    column->addWidget(told);
    auto *buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    buttons->button(QDialogButtonBox::Ok)->setText(DialogWords::tr("Knit"));
    buttons->button(QDialogButtonBox::Ok)->setProperty("main", true);
    column->addWidget(buttons);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    bySpacing->setChecked(true);
    // Faces go with the inverse square of the spacing: one forecast tells all.
    const double area = double(forecast(startSpacing)) * double(startSpacing) * double(startSpacing);
    const auto show = [&](bool fromFaces) {
        const double h = fromFaces ? std::sqrt(area / std::max(1, faces->value())) : spacing->value();
        const double count = area / (h * h);
        const QSignalBlocker a(spacing), b(faces);
        if (fromFaces)
            spacing->setValue(h);
        else
            faces->setValue(int(std::min(count, 2e9)));
        const double cells = double(longestMm) / h;
        QString words = DialogWords::tr("about %L1 faces, %2 MB, %3 cells along the longest side")
                            .arg(qlonglong(count))
                            .arg(double(field::forecastBytes(std::size_t(count))) / 1e6, 0, 'f', 0)
                            .arg(int(cells));
        if (cells > 2900)
            words += DialogWords::tr("\nToo fine: at most 3 000 cells along a side.");
        told->setText(words);
        buttons->button(QDialogButtonBox::Ok)->setEnabled(cells <= 2900 && count > 50);
    };
    QObject::connect(spacing, &QDoubleSpinBox::valueChanged, &dialog, [&] {
        bySpacing->setChecked(true);
        show(false);
    });
    QObject::connect(faces, &QSpinBox::valueChanged, &dialog, [&] {
        byFaces->setChecked(true);
        show(true);
    });
    show(false);
    if (dialog.exec() != QDialog::Accepted)
        return {};
    field::Density d;
    if (byFaces->isChecked())
        d.faces = std::size_t(faces->value());
    else
        d.spacing = float(spacing->value());
    return d;
}

void editKeys(QWidget *parent, KeyMap &keys)
{
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("keysDialog"));
    dialog.setWindowTitle(DialogWords::tr("Keys"));
    dialog.resize(520, 560);
    auto *column = new QVBoxLayout(&dialog);
    column->addWidget(heading(DialogWords::tr("Keys")));
    auto *table = new QTableWidget(int(keys.shipped().size()), 3);
    table->setAccessibleName(DialogWords::tr("Keys"));
    table->setHorizontalHeaderLabels({DialogWords::tr("What"), DialogWords::tr("Key"), DialogWords::tr("Conflicts with")});
    table->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table->verticalHeader()->hide();
    std::vector<QKeySequenceEdit *> edits;
    const auto refresh = [&, table] {
        for (int i = 0; i < table->rowCount(); ++i) {
            const KeyEntry &e = keys.shipped()[std::size_t(i)];
            table->item(i, 2)->setText(keys.conflict(e.id, keys.keyOf(e.id)));
            table->item(i, 2)->setForeground(theme().rust);
        }
    };
    for (int i = 0; i < table->rowCount(); ++i) {
        const KeyEntry &e = keys.shipped()[std::size_t(i)];
        table->setItem(i, 0, new QTableWidgetItem(e.text));
        table->item(i, 0)->setFlags(Qt::ItemIsEnabled);
        table->setItem(i, 2, new QTableWidgetItem);
        table->item(i, 2)->setFlags(Qt::ItemIsEnabled);
        auto *edit = new QKeySequenceEdit(keys.keyOf(e.id));
        edit->setAccessibleName(e.text);
        edit->setObjectName(QStringLiteral("key_") + e.id);
        edits.push_back(edit);
        table->setCellWidget(i, 1, edit);
        QObject::connect(edit, &QKeySequenceEdit::keySequenceChanged, &dialog,
                         [&keys, refresh, edit, e](const QKeySequence &key) {
                             // A held key is one key alone; of a chord its first key is taken.
                             const auto first = key.isEmpty() ? Qt::Key_unknown : key[0].key();
                             const QKeySequence taken = e.isHeld && !key.isEmpty() ? QKeySequence(first) : key;
                             keys.set(e.id, taken);
                             if (taken != key) {
                                 const QSignalBlocker quiet(edit);
                                 edit->setKeySequence(taken);
                             }
                             refresh();
                         });
    }
    refresh();
    column->addWidget(table);
    auto *fixed =
        new QLabel(DialogWords::tr("Held keys are single keys; mask and dig held together unmask. A change holds at once."));
    fixed->setWordWrap(true);
    fixed->setProperty("soft", true);
    column->addWidget(fixed);
    auto *buttons = new QDialogButtonBox(QDialogButtonBox::RestoreDefaults | QDialogButtonBox::Close);
    QObject::connect(buttons->button(QDialogButtonBox::RestoreDefaults), &QPushButton::clicked, &dialog, [&] {
        keys.reset();
        for (std::size_t i = 0; i < edits.size(); ++i) {
            const QSignalBlocker quiet(edits[i]);
            edits[i]->setKeySequence(keys.keyOf(keys.shipped()[i].id));
        }
        refresh();
    });
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    column->addWidget(buttons);
    dialog.exec();
}

void showAbout(QWidget *parent)
{
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("aboutDialog"));
    dialog.setWindowTitle(DialogWords::tr("About Bone Moss"));
    auto *column = new QVBoxLayout(&dialog);
    column->addWidget(heading(QStringLiteral("Bone Moss")));
    auto *words = new QLabel(
        DialogWords::tr(
            "Version %1\n\nFor sculptors of creatures that never were.\n\nFree software under the GNU General "
            "Public License, version 3 or later.\nFonts: Cabin and Vollkorn, SIL Open Font License.\nBuilt on Qt, TBB, "
            "Embree, meshoptimizer, SQLite, zstd, xxHash,\nnlohmann-json, CLI11, fmt and OpenImageIO.")
            .arg(QStringLiteral(BONEMOSS_VERSION)));
    words->setTextInteractionFlags(Qt::TextSelectableByMouse);
    column->addWidget(words);
    auto *buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    column->addWidget(buttons);
    dialog.exec();
}

void showList(QWidget *parent, const QString &title, const QString &intro, const QStringList &lines)
{
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("listDialog"));
    dialog.setWindowTitle(title);
    dialog.resize(480, 280);
    auto *column = new QVBoxLayout(&dialog);
    column->addWidget(heading(title, 15));
    auto *words = new QLabel(intro);
    words->setWordWrap(true);
    column->addWidget(words);
    auto *list = new QListWidget;
    list->setAccessibleName(title);
    list->addItems(lines);
    column->addWidget(list);
    auto *buttons = new QDialogButtonBox(QDialogButtonBox::Ok);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    column->addWidget(buttons);
    dialog.exec();
}

void showReport(QWidget *parent, const QString &title, const QString &intro, const std::vector<Note> &notes,
                const std::function<void(std::optional<Vec3f>)> &showMe)
{
    delete parent->findChild<QDialog *>(QStringLiteral("reportDialog")); // one at a time
    auto *dialog = new QDialog(parent, Qt::Tool);
    dialog->setObjectName(QStringLiteral("reportDialog"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setWindowTitle(title);
    auto *column = new QVBoxLayout(dialog);
    column->addWidget(heading(title, 15));
    auto *words = new QLabel(intro);
    words->setWordWrap(true);
    words->setMinimumWidth(380);
    column->addWidget(words);
    auto *rows = new QGridLayout;
    rows->setColumnStretch(0, 1);
    int row = 0;
    for (const Note &note : notes) {
        auto *text = new QLabel(QString::fromStdString(note.text));
        text->setWordWrap(true);
        rows->addWidget(text, row, 0);
        if (note.at) {
            auto *button = new QPushButton(DialogWords::tr("Show me"));
            button->setObjectName(QStringLiteral("showMe%1").arg(row));
            button->setAccessibleName(DialogWords::tr("Show me: %1").arg(text->text()));
            QObject::connect(button, &QPushButton::clicked, dialog, [at = *note.at, showMe] { showMe(at); });
            rows->addWidget(button, row, 1);
        }
        ++row;
    }
    column->addLayout(rows);
    column->addStretch();
    auto *buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    QObject::connect(buttons, &QDialogButtonBox::rejected, dialog, &QDialog::close);
    QObject::connect(dialog, &QObject::destroyed, parent, [showMe] { showMe({}); });
    column->addWidget(buttons);
    dialog->move(parent->mapToGlobal(QPoint(16, parent->height() - dialog->sizeHint().height() - 60)));
    dialog->show();
}

const std::vector<Sample> &samples()
{
    static const std::vector<Sample> all{{QStringLiteral("hollowback.recipe.json"), DialogWords::tr("Hollowback"),
                                          DialogWords::tr("An old grazer of the high moors, with layers of detail")},
                                         {QStringLiteral("cairn-pup.recipe.json"), DialogWords::tr("Cairn Pup"),
                                          DialogWords::tr("A squat cub, for a quick start")},
                                         {QStringLiteral("reed-lurcher.recipe.json"), DialogWords::tr("Reed Lurcher"),
                                          DialogWords::tr("An eel-necked wader on long legs")}};
    return all;
}

StartPage::StartPage(const QStringList &recent, QWidget *parent) : QDialog(parent)
{
    setObjectName(QStringLiteral("startPage"));
    setWindowTitle(tr("Bone Moss"));
    setMinimumWidth(640);
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(24, 20, 24, 20);
    column->addWidget(heading(tr("What shall it be?")));
    auto *row = new QHBoxLayout;
    for (const Sample &s : samples()) {
        auto *card = new QPushButton;
        card->setObjectName(QStringLiteral("sample_") + s.file.section(QLatin1Char('.'), 0, 0));
        card->setAccessibleName(s.title);
        card->setMinimumSize(180, 196); // words of two lines too
        auto *inside = new QVBoxLayout(card);
        auto *picture = new QLabel;
        const QPixmap image(dataFolder() + QStringLiteral("/samples/") + s.file.section(QLatin1Char('.'), 0, 0)
                            + QStringLiteral(".png"));
        if (!image.isNull())
            picture->setPixmap(image.scaled(170, 96, Qt::KeepAspectRatio, Qt::SmoothTransformation));
        picture->setAlignment(Qt::AlignCenter);
        picture->setFixedHeight(100);
        auto *title = new QLabel(s.title);
        title->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
        auto *words = new QLabel(s.words);
        words->setWordWrap(true);
        words->setProperty("soft", true);
        for (QLabel *l : {picture, title, words}) {
            l->setAttribute(Qt::WA_TransparentForMouseEvents);
            inside->addWidget(l);
        }
        connect(card, &QPushButton::clicked, this, [this, file = s.file] {
            m_sample = dataFolder() + QStringLiteral("/samples/") + file;
            accept();
        });
        inside->addStretch();
        row->addWidget(card);
    }
    column->addLayout(row);
    if (!recent.isEmpty()) {
        auto *late = new QLabel(tr("Recent"));
        late->setProperty("group", true);
        column->addWidget(late);
        for (const QString &path : recent) {
            auto *button = new QPushButton(QFileInfo(path).fileName());
            button->setProperty("word", true);
            button->setToolTip(path);
            connect(button, &QPushButton::clicked, this, [this, path] {
                m_file = path;
                accept();
            });
            column->addWidget(button, 0, Qt::AlignLeft);
        }
    }
    auto *fresh = new QPushButton(tr("New creature"));
    fresh->setObjectName(QStringLiteral("beginEmpty"));
    fresh->setProperty("main", true);
    connect(fresh, &QPushButton::clicked, this, &QDialog::accept);
    column->addSpacing(8);
    column->addWidget(fresh, 0, Qt::AlignRight);
}

void showManual(QWidget *parent, const QString &page)
{
    auto *window = new QDialog(parent);
    window->setObjectName(QStringLiteral("manual"));
    window->setAttribute(Qt::WA_DeleteOnClose);
    window->setWindowTitle(DialogWords::tr("Manual"));
    window->resize(620, 640);
    auto *column = new QVBoxLayout(window);
    auto *text = new QTextBrowser;
    const QString installed = dataFolder() + QStringLiteral("/manual"), built = dataFolder() + QStringLiteral("/../docs/manual");
    text->setSearchPaths({installed, built});
    text->setSource(QUrl(page + QStringLiteral(".md")), QTextDocument::MarkdownResource);
    column->addWidget(text);
    window->show();
}

} // namespace bonemoss::app
