// Read before the body moved, or a flag that is out of date.
#include <algorithm>

#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void latched_off(CauseSearch<D>& search) {
    if (search.too_little() && search.is_latched_off())
        search.offer(CauseKind::stale, SetChoice{search.of_probe("keeps"), std::int64_t{0}}, rank::latched);
}

template <int D>
void read_before_the_move(CauseSearch<D>& search) {
    if (!search.remembers()) return;
    const auto& probes = search.mounted().probes;
    if (std::any_of(probes.begin(), probes.end(),
                    [](const MountedProbe<D>& probe) { return probe.reads == Reads::before_move; }))
        search.offer(CauseKind::stale, ReadAfter{}, rank::read_early);
}

std::string why_stale(const CauseTold& t) {
    return t.cause.probe.empty() ? std::string("it is read before the move, a tick late")
                                 : t.who + " keeps a flag that is out of date";
}

}  // namespace

template <int D>
CauseRule<D> stale() {
    return {CauseKind::stale, why_stale, latched_off<D>, read_before_the_move<D>};
}

template CauseRule<2> stale<2>();
template CauseRule<3> stale<3>();

}  // namespace hollow_probe
