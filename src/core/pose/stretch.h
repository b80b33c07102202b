#pragma once

#include "mesh/surface.h"
#include "pose/posture.h"
#include "skin/layer_drive.h"

namespace bonemoss::skin {
struct Layer;
}

namespace bonemoss::pose {

/// How much a skin is stretched in a pose: the two principal stretches, lengths against rest. 1 at rest.
struct Stretch {
    float least = 1, most = 1;
    float of(skin::LayerDrive::By by) const;
};
/// Of the vertices of a block: means over their faces, weighed by area at rest. The deformation of a triangle is the linear map of
/// its plane; its stretches are the singular values (e.g. J. Bonet & R. D. Wood, Nonlinear Continuum Mechanics, ch. 4; from memory).
/// O(faces of the block).
std::vector<Stretch> stretchOf(const mesh::Surface &rest, const mesh::BlockArray<Vec3f> &posed, std::size_t block);

/// Of each layer that corrects a pose, how much of it shows in a posture, 0 to 1; 1 for all others. Layers about the same bones are
/// weighed against each other and against rest, by Gaussians of the angles between the turns of those bones, so that each shows in full
/// in the pose that it corrects and not at all in those of the others, or at rest (J. P. Lewis, M. Cordner & N. Fong 2000, "Pose
/// space deformation"). O(layers^3 + layers^2 * bones).
std::vector<float> poseShares(const std::vector<skin::Layer> &layers, const Posture &posture);

} // namespace bonemoss::pose
