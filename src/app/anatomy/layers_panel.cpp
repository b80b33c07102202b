#include "app/anatomy/layers_panel.h"

#include "app/hand/value_slider.h"
#include "app/theme/theme.h"

#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <cmath>

namespace bonemoss::app {

namespace {

/// One layer: a dot to switch it, its slider, and a border in moss when strokes go to it.
class LayerRow : public QWidget
{
public:
    LayerRow(const QString &name, bool isOn, bool isChosen, bool isBody) : m_name(name), m_isOn(isOn), m_isChosen(isChosen)
    {
        auto *row = new QHBoxLayout(this);
        row->setContentsMargins(28, 5, 10, 5);
        if (isBody) {
            auto *label = new QLabel(name);
            row->addWidget(label);
            setFixedHeight(32);
        } else {
            slider = new ValueSlider(name, {-1, 2, false, QStringLiteral("%"), 0, 100});
            row->addWidget(slider);
        }
        setAccessibleName(name);
    }
    ValueSlider *slider = nullptr;
    std::function<void()> choose, toggle;
    std::function<void(QPoint)> menu;

protected:
    void paintEvent(QPaintEvent *) override
    {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const Theme &t = theme();
        p.setPen(QPen(m_isChosen ? t.moss : t.line, m_isChosen ? 1.6 : 1));
        p.setBrush(t.field);
        p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 5, 5);
        p.setPen(QPen(m_isOn ? t.moss : t.softInk, 1.4));
        p.setBrush(m_isOn ? t.moss : t.field);
        p.drawEllipse(QPointF(15, slider ? 16 : height() / 2.0), 5, 5);
    }
    void mousePressEvent(QMouseEvent *e) override
    {
        if (e->button() == Qt::RightButton && menu)
            menu(e->globalPosition().toPoint());
        else if (e->button() == Qt::LeftButton && e->position().x() < 26 && toggle)
            toggle();
        else if (choose)
            choose();
    }

private:
    QString m_name;
    bool m_isOn, m_isChosen;
};

} // namespace

LayersPanel::LayersPanel(Session &session, QWidget *parent) : QWidget(parent), m_session(session)
{
    setObjectName(QStringLiteral("panel"));
    setAttribute(Qt::WA_StyledBackground);
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(12, 8, 4, 8);
    auto *top = new QHBoxLayout;
    auto *title = new QLabel(tr("Detail layers"));
    title->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
    auto *add = new QPushButton(tr("+ layer"));
    add->setObjectName(QStringLiteral("addLayer"));
    add->setProperty("word", true);
    add->setToolTip(tr("A new detail layer on top"));
    connect(add, &QPushButton::clicked, this, &LayersPanel::addLayer);
    top->addWidget(title);
    top->addStretch();
    top->addWidget(add);
    column->addLayout(top);
    auto *scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto *holder = new QWidget;
    holder->setObjectName(QStringLiteral("panelBody"));
    m_rows = new QVBoxLayout(holder);
    m_rows->setContentsMargins(0, 0, 8, 0);
    scroll->setWidget(holder);
    column->addWidget(scroll);
    connect(&session, &Session::creatureChanged, this, &LayersPanel::rebuild);
    connect(&session, &Session::choiceChanged, this, &LayersPanel::rebuild);
    rebuild();
}

void LayersPanel::addLayer()
{
    if (!m_session.piece())
        return;
    if (m_session.run({{"do", "layer.add"}, {"piece", m_session.piece()}}))
        m_session.chooseLayer(m_session.creature().piece(m_session.piece())->skin.layers.back().id);
}

void LayersPanel::rebuild()
{
    const creature::Piece *piece = m_session.creature().piece(m_session.piece());
    // Strokes change nothing that is shown here: leave the rows (and the keyboard's place) alone.
    QString what = piece ? QString::number(piece->id) + QString::number(m_session.layer()) : QString();
    if (piece)
        for (const auto &l : piece->skin.layers)
            what +=
                QStringLiteral("/%1 %2 %3 %4").arg(l.id).arg(QString::fromStdString(l.name)).arg(double(l.strength)).arg(l.isOn);
    what += theme().isDark ? QStringLiteral("d") : QStringLiteral("b");
    if (what == m_builtAs && m_body)
        return;
    m_builtAs = what;
    delete m_body;
    m_body = new QWidget;
    auto *column = new QVBoxLayout(m_body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    if (piece) {
        const std::uint32_t pieceId = piece->id;
        for (auto l = piece->skin.layers.rbegin(); l != piece->skin.layers.rend(); ++l) {
            const std::uint32_t id = l->id;
            const bool on = l->isOn;
            auto *row = new LayerRow(QString::fromStdString(l->name), on, id == m_session.layer(), false);
            row->setObjectName(QStringLiteral("layerRow_%1").arg(id));
            row->slider->setObjectName(QStringLiteral("layerStrength_%1").arg(id));
            row->slider->setValue(double(l->strength));
            const auto set = [this, pieceId, id](nlohmann::json change) {
                change["do"] = "layer.set", change["piece"] = pieceId, change["layer"] = id;
                QMetaObject::invokeMethod(
                    this, [this, change] { m_session.run(change); }, Qt::QueuedConnection);
            };
            row->choose = [this, id] {
                QMetaObject::invokeMethod(
                    this, [this, id] { m_session.chooseLayer(id); }, Qt::QueuedConnection);
            };
            row->toggle = [set, on] { set({{"on", !on}}); };
            row->menu = [this, set, pieceId, id, name = QString::fromStdString(l->name)](QPoint at) {
                QMenu menu;
                menu.addAction(tr("Rename…"), this, [this, set, name] {
                    const QString now = QInputDialog::getText(this, tr("Layer"), tr("Name"), QLineEdit::Normal, name);
                    if (!now.isEmpty())
                        set({{"name", now.toStdString()}});
                });
                const auto later = [this](nlohmann::json c) {
                    QMetaObject::invokeMethod(
                        this, [this, c] { m_session.run(c); }, Qt::QueuedConnection);
                };
                menu.addAction(tr("Merge down"), this, [=] {
                    later({{"do", "layer.merge"}, {"piece", pieceId}, {"layer", id}});
                });
                menu.addAction(tr("Delete"), this, [=] { later({{"do", "layer.remove"}, {"piece", pieceId}, {"layer", id}}); });
                menu.exec(at);
            };
            connect(row->slider, &ValueSlider::edited, this, [this, id](double v) { preview(id, v); });
            connect(row->slider, &ValueSlider::released, this,
                    [this, set, choose = row->choose, was = double(l->strength)](double v) {
                        emit previewChanged(nullptr);
                        if (std::abs(v - was) < 1e-6) // only clicked: the name lies on it too
                            return choose();
                        set({{"strength", v}});
                    });
            column->addWidget(row);
        }
        auto *body = new LayerRow(tr("Body"), true, m_session.layer() == 0, true);
        body->setObjectName(QStringLiteral("layerRow_0"));
        body->setToolTip(tr("Strokes go to the form itself"));
        body->choose = [this] {
            QMetaObject::invokeMethod(
                this, [this] { m_session.chooseLayer(0); }, Qt::QueuedConnection);
        };
        column->addWidget(body);
    } else {
        auto *none = new QLabel(tr("Layers come with a skin."));
        none->setProperty("soft", true);
        column->addWidget(none);
    }
    column->addStretch();
    m_rows->addWidget(m_body);
}

void LayersPanel::preview(std::uint32_t layer, double strength)
{
    const creature::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!piece)
        return;
    auto shown = std::make_shared<creature::Piece>(*piece);
    detail::Layer *l = shown->skin.layer(layer);
    if (!l)
        return;
    l->strength = float(strength);
    detail::mixBlocks(shown->skin, detail::blocksWith(*l));
    emit previewChanged(shown);
}

void LayersPanel::toggleChosen()
{
    const creature::Piece *piece = m_session.creature().piece(m_session.piece());
    const detail::Layer *l = piece ? piece->skin.layer(m_session.layer()) : nullptr;
    if (l)
        m_session.run({{"do", "layer.set"}, {"piece", piece->id}, {"layer", l->id}, {"on", !l->isOn}});
}

} // namespace bonemoss::app
