#include "app/hand/colour_hand.h"

#include "app/benches/bench.h"
#include "colour/finish.h"
#include "colour/palette.h"
#include "image/picture_file.h"
#include "skin/colour_layers.h"

#include <QSettings>

#include <algorithm>

namespace bonemoss::app {

namespace {

constexpr std::size_t kRecent = 10;
const QString kRecentKey = QStringLiteral("colour/recent");

std::size_t placeOf(const colour::RuleKind *kind)
{
    return std::size_t(kind - colour::ruleKinds().data());
}

} // namespace

ColourHand::ColourHand(Session &session) : m_session(session)
{
    for (const colour::RuleKind &kind : colour::ruleKinds()) {
        m_rules.push_back(colour::ruleOf(kind));
        m_ramps.push_back(colour::rampOf({kind.isCoat ? Vec3f{0.17f, 0.12f, 0.08f} : Vec3f{0.42f, 0.24f, 0.13f}, 0}));
    }
    setFinish(0);
}

void ColourHand::hold(Holding what)
{
    m_holding = what;
    emit kindChanged();
}

void ColourHand::setKind(const colour::RuleKind *kind, std::uint32_t layer)
{
    m_kind = kind, m_layer = layer;
    hold(Holding::Rule);
}

void ColourHand::drop()
{
    m_holding = Holding::Brush;
    m_layer = 0, m_picks = false, m_fills = Fills::No;
}

void ColourHand::setPicks(bool on)
{
    m_picks = on, m_fills = Fills::No;
    emit ruleChanged();
}

void ColourHand::setFills(Fills fills)
{
    m_fills = fills, m_picks = false;
    emit ruleChanged();
}

void ColourHand::setPhoto(Photo photo)
{
    m_photo = std::move(photo);
    emit ruleChanged();
}

void ColourHand::setPhotoCorners(const std::array<QPointF, 4> &corners)
{
    m_photo.corners = corners;
    emit ruleChanged();
}

Status ColourHand::takePhoto(const QString &path)
{
    const auto bytes = image::readPictureFile(path.toStdString());
    if (!bytes)
        return bytes.error();
    const auto picture = image::decodePicture(*bytes, 1024);
    if (!picture)
        return Error{picture.error().code, path.toStdString(), picture.error().detail};
    const QImage shown(picture->rgba.data(), picture->width, picture->height, picture->width * 4, QImage::Format_RGBA8888);
    const double high = 0.25, wide = high * 0.75 * double(picture->width) / double(picture->height); // views are wider than high
    setPhoto({path,
              shown.copy(),
              {QPointF(0.5 - wide, 0.5 - high), {0.5 + wide, 0.5 - high}, {0.5 + wide, 0.5 + high}, {0.5 - wide, 0.5 + high}}});
    return Done{};
}

const skin::ColourLayer *ColourHand::ruled() const
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const skin::ColourLayer *l = piece && m_layer ? skin::colourLayer(piece->skin, m_layer) : nullptr;
    return l && l->rule && l->ramp ? l : nullptr;
}

void ColourHand::takeUp()
{
    if (!rowOf(m_session.bench()).hasColours)
        return;
    const std::uint32_t chosen = m_session.hasChosenHere() ? m_session.colourLayer() : 0;
    if (chosen == m_seen)
        return;
    m_seen = chosen;
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const skin::ColourLayer *layer = piece ? skin::colourLayer(piece->skin, chosen) : nullptr;
    if (layer && layer->rule && layer->ramp)
        setKind(layer->rule->kind, layer->id);
    else if (m_holding == Holding::Rule && m_layer != 0)
        drop(), emit kindChanged();
}

colour::Rule ColourHand::rule() const
{
    const skin::ColourLayer *l = ruled();
    return l && l->rule->kind == m_kind ? *l->rule : m_rules[placeOf(m_kind)];
}

skin::ColourRamp ColourHand::ramp() const
{
    const skin::ColourLayer *l = ruled();
    return l ? *l->ramp : m_ramps[placeOf(m_kind)];
}

void ColourHand::setRule(const colour::Rule &rule, const skin::ColourRamp &ramp)
{
    m_rules[placeOf(rule.kind)] = rule, m_ramps[placeOf(rule.kind)] = ramp;
    emit ruleChanged();
}

void ColourHand::setFinish(std::size_t ready)
{
    m_finish = ready;
    m_finishValues = colour::kReadyFinishes[ready].values;
}

void ColourHand::setFinishValues(const FinishValues &values)
{
    m_finishValues = values;
    emit ruleChanged();
}

std::vector<Vec3f> recentColours()
{
    std::vector<Vec3f> out;
    for (const QString &hex : QSettings().value(kRecentKey).toStringList())
        if (const auto c = colour::colourOfHex(hex.toStdString()))
            out.push_back(*c);
    return out;
}

void rememberColour(Vec3f srgb)
{
    QStringList all = QSettings().value(kRecentKey).toStringList();
    const QString hex = QString::fromStdString(colour::hexOf(srgb));
    all.removeAll(hex);
    all.prepend(hex);
    while (std::size_t(all.size()) > kRecent)
        all.removeLast();
    QSettings().setValue(kRecentKey, all);
}

QColor qtColour(Vec3f c)
{
    return QColor::fromRgbF(std::clamp(c.x, 0.0f, 1.0f), std::clamp(c.y, 0.0f, 1.0f), std::clamp(c.z, 0.0f, 1.0f));
}

Vec3f fromQt(const QColor &c)
{
    return {c.redF(), c.greenF(), c.blueF()};
}

} // namespace bonemoss::app
