// Settings of the tools that paint.
#include "app/hand/colour_disc.h"
#include "app/hand/colour_hand.h"
#include "app/hand/tool_settings.h"
#include "app/theme/table_words.h"
#include "colour/accents.h"

#include <QComboBox>
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
        const std::array<float, 4> &finish = m_hand.of<ColourHand>().finishValues();
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
}

} // namespace bonemoss::app
