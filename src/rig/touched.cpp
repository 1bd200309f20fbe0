#include "hollow_probe/rig/touched.hpp"

#include <algorithm>

namespace hollow_probe {

template <int D>
std::vector<MoveContact<D>> touched_by(const Level<D>& level, const MountedRig<D>& rig, const Vec<D>& anchor,
                                       double touch) {
    std::vector<MoveContact<D>> found;
    for_each_neighbour<D>(
        level, {rig.body.view(), anchor, rig.meets}, touch, [&](const LevelNeighbour<D>& piece) {
            found.push_back({piece.normal, piece.on_level, LayerSet{1} << level.layer_of(piece.piece),
                             piece.solid, piece.piece});
        });
    std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.piece < b.piece; });
    return found;
}

template std::vector<MoveContact<2>> touched_by<2>(const Level<2>&, const MountedRig<2>&, const Vec<2>&,
                                                   double);
template std::vector<MoveContact<3>> touched_by<3>(const Level<3>&, const MountedRig<3>&, const Vec<3>&,
                                                   double);

}  // namespace hollow_probe
