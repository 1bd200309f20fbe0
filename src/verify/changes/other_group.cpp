#include "verify/changes/other_group.hpp"

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {

template <int D>
bool OtherGroup::make(Rig<D>& rig) const {
    Group& group = rig.signals[signal].members;
    std::vector<Member>& from = to_any ? group.all : group.any;
    std::vector<Member>& to = to_any ? group.any : group.all;
    to.insert(to.end(), from.begin(), from.end());
    from.clear();
    return true;
}

template <int D>
ChangeWords OtherGroup::words(const Rig<D>& rig) const {
    const Group& group = rig.signals[signal].members;
    const std::string moved = list_text(to_any ? group.all : group.any);
    return {{}, to_any ? "all" : "any", moved, (to_any ? "any = " : "all = ") + moved};
}

template bool OtherGroup::make<2>(Rig<2>&) const;
template bool OtherGroup::make<3>(Rig<3>&) const;
template ChangeWords OtherGroup::words<2>(const Rig<2>&) const;
template ChangeWords OtherGroup::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
