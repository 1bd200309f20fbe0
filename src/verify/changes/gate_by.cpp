#include "verify/changes/gate_by.hpp"

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {

template <int D>
bool GateBy::make(Rig<D>& rig) const {
    rig.signals[signal].members.all.emplace_back(rig.signals[by].name);
    return true;
}

template <int D>
ChangeWords GateBy::words(const Rig<D>& rig) const {
    std::vector<Member> all = rig.signals[signal].members.all;
    const std::string now = list_text(all);
    all.emplace_back(rig.signals[by].name);
    return {{}, "all", now, list_text(all)};
}

template bool GateBy::make<2>(Rig<2>&) const;
template bool GateBy::make<3>(Rig<3>&) const;
template ChangeWords GateBy::words<2>(const Rig<2>&) const;
template ChangeWords GateBy::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
