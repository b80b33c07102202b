#pragma once

#include "command/forms/form_fields.h"
#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"

#include <QSet>
#include <nlohmann/json_fwd.hpp>

class QBoxLayout;
class QComboBox;
class QDoubleSpinBox;
class QGridLayout;
class QVBoxLayout;

namespace bonemoss::app {

/// What the chosen form (or forms) is like, to be read and changed. Made anew whenever the choice or the creature
/// changes; what is folded open is kept by the one who makes it.
class FormSettings : public HandSettings
{
    Q_OBJECT
public:
    FormSettings(Session &session, HandModel &hand, QSet<QString> &open);
    bool isOfOneState() const override { return true; }

private:
    using Json = nlohmann::json;
    void showDrawing();
    void showForm(const armature::Form &form);
    void showCage(const document::Cage &cage);
    void showCageShape(const document::Cage &cage);
    void showNewCage();
    void showShelf();
    void showTape();
    void showSeveral();
    void showNumbers();
    void showPath(QGridLayout *grid, int &line);
    void showCurve();
    void showCopies();
    void showOneCopy(QVBoxLayout *column);
    void showJoint();
    void showSwitches();

    void send(command::FormChanges changes); ///< form.set of the chosen form, once the event in hand is over
    void run(Json command);
    template <typename Set>
    QDoubleSpinBox *number(double value, double least, double most, const QString &id, const QString &tip, Set set);
    template <typename Set>
    void triple(QGridLayout *grid, int &line, const QString &name, const QString &id, Vec3f v, double least, double most,
                Set set);
    template <typename Set>
    void single(QGridLayout *grid, int &line, const QString &name, const QString &id, double v, double least, double most,
                Set set);
    QVBoxLayout *section(const QString &name, const QString &id); ///< null while it is folded
    QGridLayout *addGrid(QBoxLayout *to);
    QComboBox *choice(QBoxLayout *to, const QString &id, const QString &tip, const QStringList &words, int now);
    void button(QBoxLayout *to, const QString &id, const QString &word, const QString &tip, const std::function<void()> &act);

    Session &m_session;
    HandModel &m_hand;
    QSet<QString> &m_open;
    armature::Form m_form; ///< as it was when this was made
    Transform m_world;
    QVBoxLayout *m_column;
};

extern const HandPart kFormPart;

} // namespace bonemoss::app
