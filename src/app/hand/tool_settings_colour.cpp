// Settings of the tools that paint.
#include "app/hand/colour_disc.h"
#include "app/hand/colour_hand.h"
#include "app/hand/tool_settings.h"
#include "app/theme/table_words.h"
#include "colour/accents.h"

#include <QComboBox>
#include <QFileDialog>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include <algorithm>

namespace bonemoss::app {

using sculpt::StrokeSettings;

/// What a tool that paints lays: colour, finish, or both.
void ToolSettings::addColour()
{
    auto *lays = new QComboBox;
    lays->setObjectName(QStringLiteral("paintLays"));
    lays->setAccessibleName(tr("What it lays"));
    lays->addItems({tr("Lays colour"), tr("Lays the finish in hand"), tr("Lays colour and finish")});
    connect(lays, &QComboBox::activated, this, [this](int k) {
        const FinishValues &finish = m_hand.of<ColourHand>().finishValues();
        m_hand.change([&](StrokeSettings &s) {
            s.laysColour = k != 1;
            for (std::size_t i = 0; i < s.finish.size(); ++i)
                s.finish[i] = k == 0 ? std::optional<float>() : finish[i];
        });
    });
    auto *chooser = new ColourChooser(&m_session);
    connect(chooser, &ColourChooser::released, &m_hand, &HandModel::setColour);
    auto *pick = new QPushButton(tr("Pick from the view"));
    pick->setObjectName(QStringLiteral("paintPick"));
    pick->setToolTip(tr("The next press takes the colour under it: of the creature, or of a picture (E)"));
    connect(pick, &QPushButton::clicked, this, [this] { m_hand.of<ColourHand>().setPicks(true); });
    m_refresh.push_back([this, lays, chooser] {
        const StrokeSettings &s = m_hand.settings(m_tool);
        const bool hasFinish = std::any_of(s.finish.begin(), s.finish.end(), [](const auto &f) { return f.has_value(); });
        lays->setCurrentIndex(!hasFinish ? 0 : s.laysColour ? 2 : 1);
        if (chooser->entry() != s.entry || !(chooser->colour() == s.colour))
            chooser->show(s.colour, s.entry);
    });
    auto *accents = new QComboBox;
    accents->setObjectName(QStringLiteral("paintAccent"));
    accents->setAccessibleName(tr("Ready brushes"));
    accents->addItem(tr("Accents…"));
    for (const colour::Accent &a : colour::kAccents)
        accents->addItem(tableWords("Accent", a.title));
    connect(accents, &QComboBox::activated, this, [this, accents](int k) {
        if (k > 0)
            m_hand.change([&](StrokeSettings &s) {
                colour::takeAccent(s, colour::kAccents[std::size_t(k - 1)], m_session.creature().heightMm);
            });
        accents->setCurrentIndex(0);
    });
    auto *coarse = new QLabel(tr("The ring is finer than the skin can hold: there is one colour to a point."));
    coarse->setObjectName(QStringLiteral("paintCoarse"));
    coarse->setWordWrap(true);
    coarse->setProperty("soft", true);
    auto *refine = new QPushButton(tr("Refine the skin"));
    refine->setObjectName(QStringLiteral("paintRefine"));
    refine->setToolTip(tr("Four times the faces, so that finer colour fits on them"));
    connect(refine, &QPushButton::clicked, this, &ToolSettings::refineAsked);
    m_refresh.push_back([this, coarse, refine] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        constexpr float kEdges = 2.5f; // across the ring's radius
        const bool isFine = piece && m_hand.settings(m_tool).size < kEdges * meanEdgeLength(piece->skin.shown);
        coarse->setVisible(isFine), refine->setVisible(isFine);
    });
    m_column->addWidget(coarse);
    m_column->addWidget(refine);
    m_column->addWidget(chooser);
    m_column->addWidget(pick);
    m_column->addWidget(lays);
    m_column->addWidget(accents);
    addFillFromPlace();
}

void ToolSettings::addFillFromPlace()
{
    using Fills = ColourHand::Fills;
    auto *where = new QComboBox;
    where->setObjectName(QStringLiteral("fillPlace"));
    where->setAccessibleName(tr("How far a fill goes"));
    where->addItems({tr("Fill: what hangs together"), tr("Fill: faces that face alike"), tr("Fill: up to a painted border")});
    const auto chosen = [where] { return Fills(where->currentIndex() + 1); };
    auto *angle = new ValueSlider(tr("Up to an edge of"), {1, 90, false, tr("°"), 0});
    auto *border = new ValueSlider(tr("Up to a difference of"), {1, 255, false, {}, 0});
    angle->setObjectName(QStringLiteral("fillAngle")), border->setObjectName(QStringLiteral("fillBorder"));
    auto *fill = new QPushButton(tr("Fill where I press"));
    fill->setObjectName(QStringLiteral("fillPress"));
    fill->setToolTip(tr("The next press on the skin fills from there on, with the colour in hand"));
    fill->setCheckable(true);
    connect(fill, &QPushButton::clicked, this,
            [this, chosen](bool on) { m_hand.of<ColourHand>().setFills(on ? chosen() : Fills::No); });
    const auto show = [angle, border, chosen] {
        angle->setVisible(chosen() == Fills::Angle), border->setVisible(chosen() == Fills::Border);
    };
    connect(where, &QComboBox::activated, this, [this, show, chosen] {
        show();
        if (ColourHand &hand = m_hand.of<ColourHand>(); hand.fills() != Fills::No)
            hand.setFills(chosen());
    });
    for (const auto &[slider, kind] : {std::pair{angle, Fills::Angle}, {border, Fills::Border}}) {
        slider->setValue(double(m_hand.of<ColourHand>().fillLimit(kind)));
        connect(slider, &ValueSlider::edited, this,
                [this, kind = kind](double v) { m_hand.of<ColourHand>().setFillLimit(kind, float(v)); });
    }
    connect(&m_hand.of<ColourHand>(), &BenchHand::ruleChanged, fill,
            [this, fill] { fill->setChecked(m_hand.of<ColourHand>().fills() != Fills::No); });
    auto *photo = new QPushButton(tr("Photograph…"));
    photo->setObjectName(QStringLiteral("photoTake"));
    photo->setToolTip(tr("Holds a picture before the view by its corners, to be laid on what is seen"));
    connect(photo, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, tr("Photograph to lay on the skin"), {},
                                                          tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.exr)"));
        if (path.isEmpty())
            return;
        if (const Status taken = m_hand.of<ColourHand>().takePhoto(path); !taken)
            m_session.complain(wordsFor(taken.error()));
    });
    auto *lay = new QPushButton(tr("Lay it on what is seen"));
    lay->setObjectName(QStringLiteral("photoLay"));
    connect(lay, &QPushButton::clicked, &m_hand.of<ColourHand>(), &ColourHand::photoAsked);
    const auto showLay = [this, lay] { lay->setVisible(!m_hand.of<ColourHand>().photo().image.isNull()); };
    connect(&m_hand.of<ColourHand>(), &BenchHand::ruleChanged, lay, showLay);
    show();
    for (QWidget *w : std::initializer_list<QWidget *>{where, angle, border, fill, photo, lay})
        m_column->addWidget(w);
    showLay();
}

} // namespace bonemoss::app
