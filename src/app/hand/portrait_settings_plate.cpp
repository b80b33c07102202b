// The page of the natural-history plate.
#include "app/hand/portrait_settings.h"

#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/portrait/plate_fields.h"
#include "export/plate.h"

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {

constexpr int kId = Qt::UserRole;

struct Quality {
    const char *title;
    int dpi, samples;
};
constexpr Quality kQualities[] = {{QT_TRANSLATE_NOOP("PortraitPage", "Draft"), 72, 8},
                                  {QT_TRANSLATE_NOOP("PortraitPage", "Good"), 200, 64},
                                  {QT_TRANSLATE_NOOP("PortraitPage", "Print"), 300, 128}};

QString labelOf(const portrait::PlateMark &m)
{
    return textOf(m.text);
}

} // namespace

void PortraitSettings::addPlate()
{
    const auto plate = [this] { return m_session.creature().stage.plate; };
    const auto line = [&](const char *id, const QString &hint, auto value, auto member) {
        auto *edit = new QLineEdit;
        edit->setObjectName(QLatin1String(id));
        edit->setPlaceholderText(hint), edit->setAccessibleName(hint), edit->setMaxLength(400);
        connect(edit, &QLineEdit::editingFinished, this, [this, edit, value, member] {
            if (edit->text() == textOf(value()))
                return;
            command::SetPlate set;
            set.*member = edit->text().toStdString();
            run(toCommand(set));
        });
        m_refresh.push_back([edit, value] {
            if (edit->hasFocus())
                return;
            edit->setText(textOf(value()));
            edit->setCursorPosition(0);
            edit->setToolTip(edit->text());
        });
        m_column->addWidget(edit);
    };
    line(
        "plateName", tr("Name"), [plate] { return plate().name; }, &command::SetPlate::name);
    line(
        "plateLatin", tr("Scientific name"), [plate] { return plate().latin; }, &command::SetPlate::latin);
    line(
        "plateCaption", tr("A line or two about it"), [plate] { return plate().caption; }, &command::SetPlate::caption);
    const auto choice = [&](const char *id, const QString &name, const auto &rows, auto value, auto member) {
        auto *c = new QComboBox;
        c->setObjectName(QLatin1String(id));
        c->setAccessibleName(name), c->setToolTip(name);
        for (const auto &row : rows)
            c->addItem(name + QStringLiteral(": ") + portraitWords(row.title), textOf(row.id));
        connect(c, &QComboBox::activated, this, [this, c, member] {
            command::SetPlate set;
            set.*member = c->currentData().toString().toStdString();
            run(toCommand(set));
        });
        m_refresh.push_back([c, value] { c->setCurrentIndex(std::max(0, c->findData(textOf(value())))); });
        m_column->addWidget(c);
    };
    choice(
        "platePaper", tr("Paper"), portrait::platePapers(), [plate] { return plate().paper; }, &command::SetPlate::paper);
    choice(
        "plateBeside", tr("Beside it"), portrait::knownSizes(), [plate] { return plate().beside; }, &command::SetPlate::beside);
    addSlider(
        "plateLife", tr("Living height"), 0, 10000, tr("mm"), 0, 1, false, [plate] { return double(plate().lifeHeight); },
        [](double v) { return toCommand(command::SetPlate{.lifeHeight = float(v)}); },
        tr("For the scale bar and the size beside it; 0: as high as the figure"));
    m_column->addWidget(heading(tr("Labels"), 11));
    auto *list = new QListWidget;
    list->setObjectName(QStringLiteral("plateMarks"));
    list->setAccessibleName(tr("Labels")), list->setToolTip(tr("F2 or a double click writes another text"));
    list->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked);
    list->setFixedHeight(120);
    const portrait::PlateMark *chosen = nullptr;
    const portrait::Plate now = plate();
    for (const portrait::PlateMark &m : now.marks) {
        auto *item = new QListWidgetItem(labelOf(m), list);
        item->setData(kId, m.id);
        item->setFlags(item->flags() | Qt::ItemIsEditable);
        if (m.id == held().mark())
            chosen = &m, list->setCurrentItem(item);
    }
    connect(list, &QListWidget::currentItemChanged, this, [this](QListWidgetItem *item) {
        if (item)
            held().chooseMark(item->data(kId).toUInt());
    });
    connect(list, &QListWidget::itemChanged, this, [this](QListWidgetItem *item) {
        command::SetMark set{.mark = item->data(kId).toUInt()};
        set.changes.text = item->text().trimmed().left(400).toStdString();
        run(toCommand(set));
    });
    m_column->addWidget(list);
    if (chosen) {
        addSlider(
            "markRadius", tr("Enlarged"), 0, double(std::max(10.0f, m_session.creature().heightMm / 3)), tr("mm"), 1, 1, false,
            [this, plate] {
                for (const portrait::PlateMark &m : plate().marks)
                    if (m.id == held().mark())
                        return double(m.radius);
                return 0.0;
            },
            [id = chosen->id](double v) {
                command::SetMark set{.mark = id};
                set.changes.radius = float(v);
                return toCommand(set);
            },
            tr("Radius of what is shown larger in a circle; 0: words alone"));
        addButton("markRemove", tr("Delete label"), {},
                  [this, id = chosen->id] { run(toCommand(command::RemoveMark{.mark = id})); });
    }
    auto *quality = new QComboBox;
    quality->setObjectName(QStringLiteral("plateQuality"));
    quality->setAccessibleName(tr("Quality")), quality->setToolTip(tr("Dots an inch, and samples of each pixel"));
    for (const Quality &q : kQualities)
        quality->addItem(tr("%1: %2 dpi, %3 samples").arg(portraitWords(q.title)).arg(q.dpi).arg(q.samples));
    quality->setCurrentIndex(1);
    m_column->addWidget(quality);
    addButton("plateMake", tr("Make plate…"), tr("A4 as PDF or PNG; can be paused and cancelled"), [this, quality] {
        const Quality q = kQualities[std::clamp(quality->currentIndex(), 0, int(std::size(kQualities)) - 1)];
        makePages(
            tr("Plate"), QStringLiteral("plate.pdf"),
            [q](const document::Creature &c, const Progress &p) -> Result<exporting::Page> {
                auto sheet = exporting::plateOf(c, {.dpi = float(q.dpi), .samples = q.samples}, p);
                if (!sheet)
                    return sheet.error();
                return plateAsPage(*sheet);
            },
            float(q.dpi));
    });
    m_column->addStretch();
}

} // namespace bonemoss::app
