#pragma once

#include "app/view/form_params.h"
#include "app/hand/form_settings.h"

#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QLabel>
#include <QWheelEvent>
#include <nlohmann/json.hpp>

#include <numbers>

// Words and numbers in rows, as the settings of forms are made of.
namespace bonemoss::app {

inline constexpr float kDegrees = 180 / std::numbers::pi_v<float>;

inline QLabel *soft(const QString &text)
{
    auto *label = new QLabel(text);
    label->setProperty("group", true);
    return label;
}

/// Takes the wheel only while it is being typed in: who scrolls past shall change nothing.
class NumberBox : public QDoubleSpinBox
{
protected:
    void wheelEvent(QWheelEvent *e) override { hasFocus() ? QDoubleSpinBox::wheelEvent(e) : e->ignore(); }
};

inline Vec3f withPart(Vec3f v, int axis, double value)
{
    (axis == 0 ? v.x : axis == 1 ? v.y : v.z) = float(value);
    return v;
}

template <typename Set>
QDoubleSpinBox *FormSettings::number(double value, double least, double most, const QString &id, const QString &tip, Set set)
{
    auto *spin = new NumberBox;
    spin->setFocusPolicy(Qt::StrongFocus);
    spin->setButtonSymbols(QAbstractSpinBox::NoButtons);
    spin->setDecimals(2);
    spin->setMinimumWidth(48);
    spin->setMaximumWidth(60);
    spin->setRange(least, most);
    spin->setValue(value);
    spin->setObjectName(id);
    spin->setAccessibleName(tip);
    spin->setToolTip(tip);
    spin->setKeyboardTracking(false);
    spin->setEnabled(!m_form.isLocked);
    connect(spin, &QDoubleSpinBox::valueChanged, this, set);
    return spin;
}

template <typename Set>
void FormSettings::triple(QGridLayout *grid, int &line, const QString &name, const QString &id, Vec3f v, double least,
                          double most, Set set)
{
    static const char *const ends[3] = {QT_TR_NOOP("x (left)"), QT_TR_NOOP("y (crown)"), QT_TR_NOOP("z (nose)")};
    if (line == 0) { // the columns' heads
        for (int axis = 0; axis < 3; ++axis)
            grid->addWidget(soft(QStringLiteral("xyz").mid(axis, 1)), 0, 1 + axis, Qt::AlignHCenter);
        ++line;
    }
    grid->addWidget(soft(name), line, 0);
    for (int axis = 0; axis < 3; ++axis)
        grid->addWidget(number(double(at(v, axis)), least, most, id + QString::number(axis),
                               tr("%1 %2").arg(name, tr(ends[axis])), [set, v, axis](double x) { set(withPart(v, axis, x)); }),
                        line, 1 + axis);
    ++line;
}

template <typename Set>
void FormSettings::single(QGridLayout *grid, int &line, const QString &name, const QString &id, double v, double least,
                          double most, Set set)
{
    grid->addWidget(soft(name), line, 0);
    grid->addWidget(number(v, least, most, id, name, set), line++, 1);
}

} // namespace bonemoss::app
