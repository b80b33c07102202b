#pragma once

#include "mesh/poly_mesh.h"

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace bonemoss::bench {

/// One figure of docs/performance.md: ours against a reference measured in the same run.
struct Figure {
    std::string name;
    double value = 0;
    std::string unit, reference;
    double referenceValue = 0;
    double ratio = 0; ///< as the goal is worded
    double goal = 0;
    bool isAtLeast = true; ///< the goal is a floor, not a ceiling
    std::string note;
    bool met() const { return isAtLeast ? ratio >= goal : ratio <= goal; }
};

struct Entry {
    const char *name;
    std::function<Figure()> run; ///< throws std::runtime_error when an input is missing
};
std::vector<Entry> fieldFigures();
/// creature: a file whose largest piece stands in for the made-up sheet, where a figure can do with any skin; empty for none.
std::vector<Entry> skinFigures(const std::string &creature);
std::vector<Entry> outgrowthFigures();
std::vector<Entry> colourFigures();
std::vector<Entry> poseFigures();
std::vector<Entry> portraitFigures();
std::vector<Entry> proofFigures();
std::vector<Entry> fileFigures(const std::string &creature);

/// Medians of `runs` of two pieces of work taken in turn, so that a machine that drifts drifts for both.
struct Pair {
    double a, b; ///< seconds
};
Pair medians(int runs, const std::function<void()> &a, const std::function<void()> &b);
double seconds(const std::function<void()> &work);
double median(std::vector<double> values);

/// n by n quads over gentle waves, side mm long, in spatial order.
mesh::PolyMesh waves(std::uint32_t n, float side);
std::string meshPath(const char *name);
/// A modelled creature of Debian's CGAL data, subdivided to 1.25 million triangles.
mesh::PolyMesh largeMesh();

} // namespace bonemoss::bench
