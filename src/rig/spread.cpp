#include "hollow_probe/rig/spread.hpp"

#include <cmath>

namespace hollow_probe {
namespace {

/// -½ … ½, evenly; the middle for one alone.
double fraction(int index, int count) {
    return count < 2 ? 0.0 : static_cast<double>(index) / (count - 1) - 0.5;
}

template <int D>
bool runs_along_up(const Vec<D>& along) {
    return std::abs(along[1]) > 0.7;
}

template <int D>
Vec<D> row_axis(SpreadAxis axis, const Vec<D>& along) {
    if (axis == SpreadAxis::forward) return Vec<D>::unit(0);
    if (axis == SpreadAxis::up) return Vec<D>::unit(1);
    if (axis == SpreadAxis::right) return Vec<D>::unit(D - 1);
    if (runs_along_up<D>(along)) return Vec<D>::unit(0);
    return D == 2 ? Vec<D>::unit(1) : Vec<D>::unit(D - 1);
}

/// `along` turned by an angle: in 2D from forward towards up, in 3D around an axis.
template <int D>
Vec<D> turned(const Vec<D>& along, SpreadAxis axis, double angle) {
    if constexpr (D == 2) {
        return turn_by(angle) * along;
    } else {
        Vec<3> around = runs_along_up<3>(along) ? Vec<3>::unit(2) : Vec<3>::unit(1);
        if (axis == SpreadAxis::forward) around = Vec<3>::unit(0);
        if (axis == SpreadAxis::up) around = Vec<3>::unit(1);
        if (axis == SpreadAxis::right) around = Vec<3>::unit(2);
        return turn_about(around, angle) * along;
    }
}

/// Two unit directions across `along`: the first as near to forward as can be, or to up for what runs
/// forward.
std::array<Vec<3>, 2> axes_across(const Vec<3>& along) {
    const Vec<3> wanted = std::abs(along[0]) > 0.7 ? Vec<3>::unit(1) : Vec<3>::unit(0);
    const Vec<3> first = (wanted - wanted.dot(along) * along).normalized();
    return {first, along.cross(first)};
}

}  // namespace

int Spread::line_count() const {
    if (kind == SpreadKind::none) return 1;
    return kind == SpreadKind::grid ? counts[0] * counts[1] : count;
}

template <int D>
void spread_lines(const Spread& spread, const Vec<D>& from, const Vec<D>& along,
                  std::vector<ProbeLine<D>>& lines) {
    lines.clear();
    switch (spread.kind) {
        case SpreadKind::none:
            lines.push_back({from, along});
            return;
        case SpreadKind::row:
            for (int i = 0; i < spread.count; ++i) {
                const double aside = spread.width * fraction(i, spread.count);
                lines.push_back({from + aside * row_axis<D>(spread.axis, along), along});
            }
            return;
        case SpreadKind::fan:
            for (int i = 0; i < spread.count; ++i) {
                const double part =
                    spread.degrees >= 360.0 ? double(i) / spread.count : fraction(i, spread.count);
                lines.push_back({from, turned<D>(along, spread.axis, radians(spread.degrees * part))});
            }
            return;
        case SpreadKind::ring:
        case SpreadKind::grid:
            break;
    }
    if constexpr (D == 3) {
        const auto [first, second] = axes_across(along);
        if (spread.kind == SpreadKind::ring) {
            for (int i = 0; i < spread.count; ++i) {
                const double angle = 2.0 * std::numbers::pi * i / spread.count;
                const Vec<3> aside = std::cos(angle) * first + std::sin(angle) * second;
                lines.push_back({from + spread.radius * aside, along});
            }
            return;
        }
        for (int i = 0; i < spread.counts[0]; ++i) {
            for (int k = 0; k < spread.counts[1]; ++k) {
                lines.push_back({from + spread.size[0] * fraction(i, spread.counts[0]) * first +
                                     spread.size[1] * fraction(k, spread.counts[1]) * second,
                                 along});
            }
        }
    }
}

template void spread_lines<2>(const Spread&, const Vec<2>&, const Vec<2>&, std::vector<ProbeLine<2>>&);
template void spread_lines<3>(const Spread&, const Vec<3>&, const Vec<3>&, std::vector<ProbeLine<3>>&);

}  // namespace hollow_probe
