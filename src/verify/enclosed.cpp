#include "verify/enclosed.hpp"

#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/level/inspect.hpp"
#include "verify/grid.hpp"

namespace hollow_probe {

namespace {

/// What is odd about a 3D level's meshes, in a few words a solid.
template <int D>
std::vector<std::string> odd_solids(const Level<D>& level, const LevelReport<D>& report) {
    std::vector<std::string> odd;
    for (std::size_t i = 0; i < report.solids.size(); ++i) {
        std::string words;
        for (const Oddity oddity :
             {Oddity::open_edge, Oddity::inside_out, Oddity::both_sided, Oddity::flipped_normal,
              Oddity::duplicate_face, Oddity::nonmanifold_edge}) {
            const std::size_t count = report.solids[i].odd[static_cast<std::size_t>(oddity)];
            if (count == 0) continue;
            words += (words.empty() ? "" : ", ") + std::to_string(count) + " " + name_of(oddity, count > 1);
        }
        if (!words.empty()) odd.push_back("\"" + level.solids()[i].name + "\": " + words);
    }
    return odd;
}

/// The heights of a column at which it is inside of a closed mesh.
template <int D>
std::vector<HeightSpan> inside_of(const Level<D>& level, std::uint32_t solid, const Vec<D>& foot) {
    std::vector<HeightSpan> spans;
    if constexpr (D == 3) {
        // Where the column runs through the surface; a hair aside, so that it meets no edge.
        const Vec<D>& up = level.up();
        const LevelAxes<D> axes(up);
        const double hair = tolerance::accuracy * (1.0 + level.bounds().size().norm());
        const Vec<D> origin = foot + hair * (0.7548776662 * axes.across[0] + 0.5698402910 * axes.across[1]);
        Sweep<D> sweep;
        const double far = magnitude(level.bounds()) * 2.0 + 1.0;
        sweep.center = origin + far * up;
        sweep.direction = -up;
        sweep.reach = 2.0 * far;
        std::vector<double> crossings;
        level.tree().along(sweep, [&](std::uint32_t piece, double limit) {
            if (level.solid_of(piece) != solid) return limit;
            const Vec<D>* corners = level.pieces().corners(piece);
            std::array<Vec<2>, 3> flat;
            for (std::size_t k = 0; k < 3; ++k) {
                const Vec<D> way = corners[k] - origin;
                flat[k] = {axes.across[0].dot(way), axes.across[1].dot(way)};
            }
            std::array<double, 3> part{};
            for (std::size_t k = 0; k < 3; ++k) {
                const auto& a = flat[(k + 1) % 3];
                const auto& b = flat[(k + 2) % 3];
                part[k] = a.x() * b.y() - a.y() * b.x();
            }
            const double whole = part[0] + part[1] + part[2];
            if (whole == 0.0) return limit;
            for (double& share : part) share /= whole;
            if (std::min({part[0], part[1], part[2]}) < 0.0) return limit;
            double height = 0.0;
            for (std::size_t k = 0; k < 3; ++k) height += part[k] * up.dot(corners[k]);
            crossings.push_back(height - up.dot(foot));
            return limit;
        });
        std::sort(crossings.begin(), crossings.end());
        for (std::size_t i = 0; i + 1 < crossings.size(); i += 2)
            spans.push_back({crossings[i], crossings[i + 1]});
    }
    return spans;
}

}  // namespace

template <int D>
Enclosed<D>::Enclosed(const Level<D>& level) {
    if constexpr (D == 3) {
        const bool any =
            std::any_of(level.solids().begin(), level.solids().end(), [&](const Solid<D>& solid) {
                return !solid.volume && level.pieces().is_facet(solid.first_piece);
            });
        if (!any) return;
        const LevelReport<D> report = inspect<D>(level);
        odd_ = odd_solids<D>(level, report);
        for (std::uint32_t i = 0; i < level.solids().size(); ++i) {
            if (!report.solids[i].closed() || level.solids()[i].one_way) continue;
            const bool entered =
                std::any_of(level.starts().begin(), level.starts().end(), [&](const StartPoint<D>& start) {
                    // A start is where a body stands, not in the floor: from a little above it.
                    const double height = level.up().dot(start.at);
                    const double above = height + 1e-6 * (1.0 + level.bounds().size().norm());
                    const auto spans = inside_of<D>(level, i, start.at - height * level.up());
                    return std::any_of(spans.begin(), spans.end(), [&](const HeightSpan& span) {
                        return span.low <= above && above <= span.high;
                    });
                });
            (entered ? entered_ : left_out_).push_back(i);
        }
    }
}

namespace {

template <int D>
std::vector<std::uint32_t> met_of(const Level<D>& level, LayerSet meets,
                                  const std::vector<std::uint32_t>& solids) {
    std::vector<std::uint32_t> met;
    for (const std::uint32_t solid : solids) {
        if (meets >> level.solids()[solid].bit & 1U) met.push_back(solid);
    }
    return met;
}

}  // namespace

template <int D>
std::vector<std::uint32_t> Enclosed<D>::left_out(const Level<D>& level, LayerSet meets) const {
    return met_of<D>(level, meets, left_out_);
}

template <int D>
std::vector<std::uint32_t> Enclosed<D>::entered(const Level<D>& level, LayerSet meets) const {
    return met_of<D>(level, meets, entered_);
}

template <int D>
std::vector<HeightSpan> Enclosed<D>::inside(const Level<D>& level, LayerSet meets, const Vec<D>& foot) const {
    std::vector<HeightSpan> all;
    for (const std::uint32_t solid : left_out(level, meets)) {
        const auto spans = inside_of<D>(level, solid, foot);
        all.insert(all.end(), spans.begin(), spans.end());
    }
    std::sort(all.begin(), all.end(), [](const HeightSpan& a, const HeightSpan& b) { return a.low < b.low; });
    return all;
}

template class Enclosed<2>;
template class Enclosed<3>;

}  // namespace hollow_probe
