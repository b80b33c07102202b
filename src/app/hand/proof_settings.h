#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"
#include "app/hand/proof_hand.h"

#include <nlohmann/json_fwd.hpp>

class QLabel;
class QSlider;
class QListWidget;
class QPushButton;
class QVBoxLayout;

namespace bonemoss::app {

class LayerView;

/// The check of the Proof bench: printer, size, and a list of what was found. A finding that is chosen is flown to.
class ProofSettings : public HandSettings
{
    Q_OBJECT
public:
    ProofSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;

private:
    ProofHand &held() const { return m_hand.of<ProofHand>(); }
    void addPrinter(QVBoxLayout *column);
    void addLayers(QVBoxLayout *column);
    void check();
    void slice();
    void mend();
    nlohmann::json mendOf(const proof::Finding &finding) const;
    void showLayer();
    void fill();
    void tellChosen();

    Session &m_session;
    HandModel &m_hand;
    QLabel *m_summary, *m_about, *m_layerWords;
    LayerView *m_layers;
    QSlider *m_layer;
    QPushButton *m_slice, *m_mend;
    QListWidget *m_list;
    QPushButton *m_check;
    bool m_isFilling = false;
};

/// Words of its tables in the language of the window.
QString proofWords(std::string_view words);
/// How bad, as a colour that goes with a word.
QColor colourOf(proof::Severity severity);

extern const HandPart kProofPart;

} // namespace bonemoss::app
