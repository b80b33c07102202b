#pragma once

#include "command/sculpt/sculpt_fields.h"
#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"
#include "app/hand/value_slider.h"

#include <QSet>

class QVBoxLayout;

namespace bonemoss::app {

/// The settings of the sculpting tool in hand: its own first, then falloff, stroke, pen, symmetry of the piece and levels,
/// each under a heading that folds.
class ToolSettings : public HandSettings
{
    Q_OBJECT
public:
    /// openSections: which are unfolded; outlives this.
    ToolSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;

private:
    void addColour();
    void addFillFromPlace();
    void addOwn();
    void addFalloff();
    void addStroke();
    void addPen();
    void addStencil();
    void addSymmetry();
    void addSaved();
    void addLevels();
    QVBoxLayout *section(const QString &name, const QString &id); ///< null while it is folded
    void addRows(QVBoxLayout *to, const char *sectionName);
    void setSymmetry(command::SetSymmetry changes);

    Session &m_session;
    HandModel &m_hand;
    QSet<QString> &m_open;
    sculpt::Tool m_tool;
    QVBoxLayout *m_column;
    std::vector<std::function<void()>> m_refresh;
};

extern const HandPart kToolPart;

} // namespace bonemoss::app
