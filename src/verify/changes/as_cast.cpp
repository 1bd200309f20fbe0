#include "verify/changes/as_cast.hpp"

#include <algorithm>

namespace hollow_probe {

template <int D>
void AsCast::make_of(Probe<D>& changed, const RoundedHull<D>& shape) {
    const ShiftProbe<D> shift = changed.shift();
    LineProbe<D> cast{.shape = shape,
                      .along = shift.along,
                      .aim = shift.aim,
                      .reach = shift.reach,
                      .reach_grounded = shift.reach_grounded,
                      .reach_per_speed = shift.reach_per_speed,
                      .one_way = shift.one_way};
    if (shift.axes == ShiftAxes::across_up) cast.along[1] = 0.0;
    if (shift.axes == ShiftAxes::along_up) cast.along = (shift.along[1] < 0.0 ? -1.0 : 1.0) * Vec<D>::unit(1);
    cast.along.normalize();
    changed.of_kind = cast;
}

template <int D>
bool AsCast::make(Probe<D>& changed, const Rig<D>& rig) const {
    if (changed.shift().inset > 0.0) return false;
    const Stance<D>* mounted_in = nullptr;
    for (const Stance<D>& stance : rig.body.stances) {
        const auto& named = changed.stances;
        if (!named.empty() && std::find(named.begin(), named.end(), stance.name) == named.end()) continue;
        if (mounted_in != nullptr) return false;
        mounted_in = &stance;
    }
    if (mounted_in == nullptr) return false;
    const Vec<D> middle = mounted_in->shape.bounds().center();
    make_of<D>(changed, mounted_in->shape.placed(Mat<D>::identity(), -middle));
    changed.line().from = middle;
    return true;
}

template <int D>
ChangeWords AsCast::words(const Rig<D>& rig) const {
    return {rig.probes[static_cast<std::size_t>(of_probe)].name, "kind", "shift",
            "cast: of the stance, along the same way"};
}

template bool AsCast::make<2>(Probe<2>&, const Rig<2>&) const;
template bool AsCast::make<3>(Probe<3>&, const Rig<3>&) const;
template void AsCast::make_of<2>(Probe<2>&, const RoundedHull<2>&);
template void AsCast::make_of<3>(Probe<3>&, const RoundedHull<3>&);
template ChangeWords AsCast::words<2>(const Rig<2>&) const;
template ChangeWords AsCast::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
