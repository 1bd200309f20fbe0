// One probe alone decides where all together would not.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void among_other_contacts(CauseSearch<D>& search) {
    if (search.too_much() && search.is_contact() && search.probe().contact().match == Match::includes)
        search.offer(CauseKind::combined_in,
                     SetChoice{search.of_probe("match"), static_cast<std::int64_t>(Match::only)},
                     rank::all_contacts);
}

template <int D>
void asked_for_too_few(CauseSearch<D>& search) {
    if (search.missed()) return;
    const MountedGroup& mounted = search.mounted().signals[search.signal_number()];
    const int present = (Bits{search.pose().probes_on, search.pose().signals_on} & mounted.counted).count();
    if (present < mounted.counted.count())
        search.offer(CauseKind::combined_in,
                     SetChoice{search.of_signal("at_least.count"), std::int64_t{present + 1}}, rank::count);
    if (search.signal().members.any.size() > 1)
        search.offer(CauseKind::combined_in, OtherGroup{search.signal_number(), false}, rank::whole_group);
    if (search.claim() != Claim::drop) return;
    // A drop is one only for what stands.
    for (std::size_t i = 0; i < search.signal_number(); ++i) {
        if (search.rig().signals[i].claims == Claim::ground && !search.pose().truths_on.has(i))
            search.offer(CauseKind::combined_in, GateBy{search.signal_number(), i}, rank::gate);
    }
}

std::string why_combined_in(const CauseTold&) {
    return std::string("one probe alone decides where all together would not");
}

}  // namespace

template <int D>
CauseRule<D> combined_in() {
    return {CauseKind::combined_in, why_combined_in, among_other_contacts<D>, asked_for_too_few<D>};
}

template CauseRule<2> combined_in<2>();
template CauseRule<3> combined_in<3>();

}  // namespace hollow_probe
