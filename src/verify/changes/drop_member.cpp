#include "verify/changes/drop_member.hpp"

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {
namespace {

std::vector<Member>& group_list(Group& group, std::size_t list) {
    return list == 0 ? group.any : list == 1 ? group.all : group.none;
}

}  // namespace

template <int D>
bool DropMember::make(Rig<D>& rig) const {
    std::vector<Member>& members = group_list(rig.signals[signal].members, list);
    members.erase(members.begin() + static_cast<std::ptrdiff_t>(place));
    return true;
}

template <int D>
ChangeWords DropMember::words(const Rig<D>& rig) const {
    static constexpr std::array names = {"any", "all", "none"};
    Group group = rig.signals[signal].members;
    std::vector<Member>& members = group_list(group, list);
    const std::string now = list_text(members);
    members.erase(members.begin() + static_cast<std::ptrdiff_t>(place));
    return {{}, names[list], now, list_text(members)};
}

template bool DropMember::make<2>(Rig<2>&) const;
template bool DropMember::make<3>(Rig<3>&) const;
template ChangeWords DropMember::words<2>(const Rig<2>&) const;
template ChangeWords DropMember::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
