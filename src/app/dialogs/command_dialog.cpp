#include "app/dialogs/command_dialog.h"

#include "app/session/latest.h"
#include "app/theme/table_words.h"
#include <QCheckBox>
#include <QComboBox>
#include <QCoreApplication>
#include <QDialog>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <functional>

namespace bonemoss::app {

using nlohmann::json;

namespace {

/// Context of its words.
struct CommandDialogWords {
    Q_DECLARE_TR_FUNCTIONS(CommandDialog)
};

QString sentence(QString words)
{
    if (!words.isEmpty())
        words[0] = words[0].toUpper();
    return words;
}

QVBoxLayout *begin(QDialog &dialog, const QString &title, const QString &words)
{
    dialog.setWindowTitle(title);
    auto *column = new QVBoxLayout(&dialog);
    auto *head = new QLabel(title);
    head->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 15pt; font-weight: 600;"));
    column->addWidget(head);
    auto *told = new QLabel(words);
    told->setWordWrap(true);
    told->setMinimumWidth(360);
    told->setProperty("soft", true);
    column->addWidget(told);
    return column;
}

/// command  what would be done now, or null when too little is chosen yet
void end(QDialog &dialog, QVBoxLayout *column, const QString &go, const std::function<std::optional<json>()> &command = {},
         const TryOut &tryOut = {})
{
    auto *buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    buttons->button(QDialogButtonBox::Ok)->setText(go);
    buttons->button(QDialogButtonBox::Ok)->setProperty("main", true);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    column->addWidget(buttons);
    if (!tryOut)
        return;
    auto *preview = buttons->addButton(CommandDialogWords::tr("Preview"), QDialogButtonBox::ActionRole);
    preview->setObjectName(QStringLiteral("previewButton"));
    preview->setToolTip(CommandDialogWords::tr("Shows it in the view without doing it"));
    QObject::connect(preview, &QPushButton::clicked, &dialog, [command, tryOut] {
        if (const auto now = command())
            tryOut(&*now);
    });
    QObject::connect(&dialog, &QDialog::finished, &dialog, [tryOut] { tryOut(nullptr); });
}

/// A field for a parameter, and what reads it.
std::pair<QWidget *, std::function<json()>> fieldFor(const command::ParamSpec &p, const json &start)
{
    const QString id = QString::fromStdString(p.name);
    QWidget *field = nullptr;
    std::function<json()> read;
    switch (p.kind) {
    case command::ParamKind::Switch: {
        auto *box = new QCheckBox(sentence(tableWords("Parameter", p.description)));
        box->setChecked(start.is_boolean() && start.get<bool>());
        read = [box] { return json(box->isChecked()); };
        field = box;
        break;
    }
    case command::ParamKind::Choice: {
        auto *box = new QComboBox;
        for (const std::string &c : p.choices)
            box->addItem(QString::fromStdString(c));
        if (start.is_string())
            box->setCurrentText(QString::fromStdString(start.get<std::string>()));
        read = [box] { return json(box->currentText().toStdString()); };
        field = box;
        break;
    }
    case command::ParamKind::Text: {
        auto *box = new QLineEdit(start.is_string() ? QString::fromStdString(start.get<std::string>()) : QString());
        read = [box] { return json(box->text().toStdString()); };
        field = box;
        break;
    }
    default: {
        auto *box = new QDoubleSpinBox;
        const bool isWhole = p.kind == command::ParamKind::Integer;
        box->setDecimals(isWhole ? 0 : 3);
        box->setRange(std::max(p.min, -1e9), std::min(p.max, 1e9));
        box->setGroupSeparatorShown(isWhole);
        if (!p.unit.empty())
            box->setSuffix(QStringLiteral(" %1").arg(QString::fromStdString(p.unit)));
        if (start.is_number())
            box->setValue(start.get<double>());
        box->setStepType(QAbstractSpinBox::AdaptiveDecimalStepType);
        read = [box, isWhole] { return isWhole ? json(std::int64_t(box->value())) : json(box->value()); };
        field = box;
        break;
    }
    }
    field->setObjectName(QStringLiteral("ask_%1").arg(id));
    field->setAccessibleName(sentence(tableWords("Parameter", p.description)));
    field->setToolTip(field->accessibleName());
    return {field, read};
}

} // namespace

std::optional<json> askCommand(QWidget *parent, const json &given, const QStringList &asked, const TryOut &tryOut,
                               const QString &title, const QString &words, const Forecast &forecast)
{
    const command::CommandSpec *spec = command::findCommand(given.at("do").get_ref<const std::string &>());
    const QString head = title.isEmpty() ? tableWords("Command", spec->title) : title;
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("commandDialog"));
    QVBoxLayout *column = begin(dialog, head, words.isEmpty() ? tableWords("Command", spec->description) : words);
    auto *form = new QFormLayout;
    std::vector<std::pair<std::string, std::function<json()>>> readers;
    for (const QString &which : asked)
        for (const command::ParamSpec &p : spec->params) {
            if (QString::fromStdString(p.name) != which)
                continue;
            const json start = given.contains(p.name)  ? given[p.name]
                               : p.defaultJson.empty() ? json()
                                                       : json::parse(p.defaultJson);
            const auto [field, read] = fieldFor(p, start);
            if (p.kind == command::ParamKind::Switch)
                form->addRow(field);
            else
                form->addRow(tableWords("Parameter", command::titleOf(p)), field);
            readers.push_back({p.name, read});
        }
    column->addLayout(form);
    const auto command = [&]() -> std::optional<json> {
        json out = given;
        for (const auto &[key, read] : readers)
            if (json value = read(); !(value.is_string() && value.get_ref<const std::string &>().empty()))
                out[key] = std::move(value);
        return out;
    };
    QLabel *told = nullptr;
    if (forecast) {
        told = new QLabel;
        told->setObjectName(QStringLiteral("forecast"));
        column->addWidget(told);
    }
    Latest<QString> latest([told](const QString &text) { told->setText(text); });
    if (forecast) {
        const auto ask = [&] {
            told->setText(CommandDialogWords::tr("…"));
            latest.ask([forecast, now = *command()](const std::stop_token &) { return forecast(now); });
        };
        for (auto *box : dialog.findChildren<QDoubleSpinBox *>())
            QObject::connect(box, &QDoubleSpinBox::valueChanged, &dialog, ask);
        ask();
    }
    end(dialog, column, head, command, tryOut);
    return dialog.exec() == QDialog::Accepted ? command() : std::nullopt;
}

std::optional<std::vector<std::uint32_t>> askPieces(QWidget *parent, const document::Creature &creature, const QString &title,
                                                    const QString &words, std::uint32_t first, const json &command,
                                                    const TryOut &tryOut)
{
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("piecesDialog"));
    QVBoxLayout *column = begin(dialog, title, words);
    auto *list = new QListWidget;
    list->setObjectName(QStringLiteral("askPieces"));
    list->setAccessibleName(title);
    for (const auto &p : creature.pieces) {
        if (p->id == first)
            continue;
        auto *item = new QListWidgetItem(QString::fromStdString(p->name), list);
        item->setData(Qt::UserRole, p->id);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsUserCheckable | Qt::ItemIsSelectable);
        item->setCheckState(Qt::Unchecked);
    }
    list->setMaximumHeight(28 * std::clamp(list->count(), 2, 8));
    if (list->count() == 1)
        list->item(0)->setCheckState(Qt::Checked);
    column->addWidget(list);
    const auto chosen = [&]() -> std::optional<std::vector<std::uint32_t>> {
        std::vector<std::uint32_t> out{first};
        for (int i = 0; i < list->count(); ++i)
            if (list->item(i)->checkState() == Qt::Checked)
                out.push_back(list->item(i)->data(Qt::UserRole).toUInt());
        return out.size() < 2 ? std::nullopt : std::optional(out);
    };
    const auto now = [&]() -> std::optional<json> {
        const auto pieces = chosen();
        if (!pieces)
            return {};
        json out = command;
        out["pieces"] = *pieces;
        return out;
    };
    end(dialog, column, title, now, tryOut);
    return dialog.exec() == QDialog::Accepted ? chosen() : std::nullopt;
}

} // namespace bonemoss::app
