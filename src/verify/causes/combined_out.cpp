// Probes sense it, but the combination of them says no.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

/// A contact probe that asks for contacts on one side only.
template <int D>
void other_contacts(CauseSearch<D>& search) {
    if (search.too_little() && search.is_contact() && search.probe().contact().match == Match::only)
        search.offer(CauseKind::combined_out,
                     SetChoice{search.of_probe("match"), static_cast<std::int64_t>(Match::includes)},
                     rank::one_contact_of_many);
}

template <int D>
void asked_for_too_many(CauseSearch<D>& search) {
    if (!search.missed()) return;
    const Group& group = search.signal().members;
    const MountedGroup& mounted = search.mounted().signals[search.signal_number()];
    drop_members(search, CauseKind::combined_out, false, rank::member);
    const int present = (Bits{search.pose().probes_on, search.pose().signals_on} & mounted.counted).count();
    if (present > 0)
        search.offer(CauseKind::combined_out,
                     SetChoice{search.of_signal("at_least.count"), std::int64_t{present}}, rank::count);
    if (group.all.size() > 1)
        search.offer(CauseKind::combined_out, OtherGroup{search.signal_number(), true}, rank::whole_group);
}

std::string why_combined_out(const CauseTold&) {
    return std::string("its combination of probes says no though one senses it");
}

}  // namespace

template <int D>
CauseRule<D> combined_out() {
    return {CauseKind::combined_out, why_combined_out, other_contacts<D>, asked_for_too_many<D>};
}

template CauseRule<2> combined_out<2>();
template CauseRule<3> combined_out<3>();

}  // namespace hollow_probe
