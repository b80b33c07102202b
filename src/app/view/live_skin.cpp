#include "app/view/live_skin.h"

#include "app/session/latest.h"
#include "field/knit.h"
#include "mesh/measures.h"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QThreadPool>

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

namespace {

constexpr double kVertices = 100'000;
constexpr float kMostCells = 800; // along the diagonal
constexpr double kFrameMs = 90;   // a preview that takes longer makes the next one of the drag coarser

} // namespace

LiveSkin::LiveSkin(QObject *parent) : QObject(parent), m_alive(std::make_shared<std::atomic<bool>>(true)) {}

LiveSkin::~LiveSkin()
{
    *m_alive = false;
}

void LiveSkin::want(const armature::Armature &forms, bool isMoving)
{
    m_isMoving = isMoving;
    if (forms == m_shown && (isMoving || m_isExact))
        return;
    m_wanted = forms;
    if (!m_isBusy)
        start();
}

LiveSkin::Answer LiveSkin::make(const armature::Armature &forms, float spacing, std::stop_token stop)
{
    Answer a;
    QElapsedTimer clock;
    clock.start();
    const auto source = armature::makeDistance(forms);
    const Box3f box = source->bounds();
    if (box.isEmpty())
        return a;
    const bool isFirst = !(spacing > 0);
    // A spacing found for a much smaller creature must not be used on a large one.
    a.spacing = isFirst ? box.diagonal() / 120 : std::max(spacing, box.diagonal() / kMostCells);
    auto mesh = field::previewSource(*source, a.spacing, {stop, {}});
    if (!mesh)
        return a;
    if (isFirst && mesh->positions.size() > 100) { // now the spacing for the wanted count is known
        a.spacing *= float(std::sqrt(double(mesh->positions.size()) / kVertices));
        clock.restart();
        mesh = field::previewSource(*source, a.spacing, {stop, {}});
        if (!mesh)
            return a;
    }
    a.vertices = mesh->positions.size();
    a.surface = std::make_shared<mesh::Surface>(mesh::makeSurface(*mesh));
    a.ms = double(clock.nsecsElapsed()) / 1e6;
    if (a.vertices > 0)
        a.balance = armature::balanceOf(mesh->positions, mesh::massOf(*mesh).centre, a.spacing);
    return a;
}

void LiveSkin::start()
{
    m_isBusy = true;
    m_shown = m_wanted;
    m_isExact = !m_isMoving;
    const float spacing = m_isMoving ? m_spacing : m_exactSpacing;
    QThreadPool::globalInstance()->start([this, alive = m_alive, forms = m_wanted, spacing] {
        Answer answer = workedOut<Answer>({}, [&] { return make(forms, spacing, {}); });
        // Asked on the window's thread, where this is destroyed: nobody is called after that.
        QMetaObject::invokeMethod(
            qApp,
            [this, alive, answer = std::move(answer)] {
                if (*alive)
                    take(answer);
            },
            Qt::QueuedConnection);
    });
}

void LiveSkin::take(const Answer &answer)
{
    m_isBusy = false;
    m_surface = answer.surface;
    m_balance = answer.balance;
    m_lastMs = answer.ms;
    if (answer.vertices > 0) {
        const float whole = answer.spacing * float(std::sqrt(double(answer.vertices) / kVertices));
        m_exactSpacing = whole;
        if (m_spacing == 0)
            m_spacing = whole;
        if (m_isMoving) // as fine as the machine can follow
            m_spacing = std::clamp(answer.spacing * float(std::sqrt(answer.ms / kFrameMs)), whole, whole * 4);
    }
    if (!(m_wanted == m_shown) || (!m_isMoving && !m_isExact))
        start();
    emit changed();
}

} // namespace bonemoss::app
