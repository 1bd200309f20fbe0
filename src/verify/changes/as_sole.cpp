#include "verify/changes/as_sole.hpp"

namespace hollow_probe {

template <int D>
bool AsSole::make(Probe<D>& changed, const Rig<D>& rig) const {
    const double radius = rig.body.stances[stance].shape.radius();
    LineProbe<D>& sole = changed.line();
    sole.shape = RoundedHull<D>::ball(Vec<D>::zero(), radius);
    sole.from = radius * Vec<D>::unit(1);
    sole.reach = rig.intent.touch;
    sole.accept_least_degrees = 0.0;
    sole.accept_most_degrees = rig.intent.steepest_footing_degrees;
    sole.take = Take::all;
    return true;
}

template <int D>
ChangeWords AsSole::words(const Rig<D>& rig) const {
    return {rig.probes[static_cast<std::size_t>(of_probe)].name, "kind", "ray", "cast"};
}

template bool AsSole::make<2>(Probe<2>&, const Rig<2>&) const;
template bool AsSole::make<3>(Probe<3>&, const Rig<3>&) const;
template ChangeWords AsSole::words<2>(const Rig<2>&) const;
template ChangeWords AsSole::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
