#include "verify/changes/list_name.hpp"

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {
namespace {

template <int D>
std::vector<std::string>& list_of(Probe<D>& probe, std::string_view key) {
    return key == "sees" ? probe.sees : probe.stances;
}

}  // namespace

template <int D>
bool ListName::make(Probe<D>& changed, const Rig<D>&) const {
    std::vector<std::string>& list = list_of<D>(changed, key);
    if (listed) {
        list.push_back(name);
    } else {
        std::erase(list, name);
    }
    return true;
}

template <int D>
ChangeWords ListName::words(const Rig<D>& rig) const {
    Probe<D> changed = rig.probes[static_cast<std::size_t>(of_probe)];
    const std::string now = list_text(list_of<D>(changed, key));
    make<D>(changed, rig);
    return {changed.name, std::string(key), now, list_text(list_of<D>(changed, key))};
}

std::string ListName::about() const {
    return "list " + std::to_string(of_probe) + " " + std::string(key) + (listed ? " with " : " without ") +
           name;
}

template bool ListName::make<2>(Probe<2>&, const Rig<2>&) const;
template bool ListName::make<3>(Probe<3>&, const Rig<3>&) const;
template ChangeWords ListName::words<2>(const Rig<2>&) const;
template ChangeWords ListName::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
