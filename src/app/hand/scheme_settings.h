#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"
#include "app/session/latest.h"

#include <QImage>
#include <QMap>

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::app {

/// The colour schemes of the creature, each with a small picture that takes it up.
class SchemeSettings : public HandSettings
{
    Q_OBJECT
public:
    SchemeSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;

private:
    struct Drawn {
        std::uint32_t scheme = 0;
        QImage image;
    };
    void rebuild();
    void askPicture();
    void addScheme();
    void renameScheme(std::uint32_t id);
    void planPaint();
    void later(nlohmann::json command);
    static QMap<std::uint32_t, std::pair<document::Scheme, QImage>> &pictures();

    Session &m_session;
    QWidget *m_body = nullptr;
    std::vector<document::Scheme> m_built;
    std::uint32_t m_builtUsed = 0;
    Latest<Drawn> m_next;
};

} // namespace bonemoss::app
