#include <array>

#include "verify/causes/causes.hpp"

namespace hollow_probe {

template <int D>
CauseRule<D> not_mounted();
template <int D>
CauseRule<D> own_body();
template <int D>
CauseRule<D> held();
template <int D>
CauseRule<D> layer_unseen();
template <int D>
CauseRule<D> layer_wrong();
template <int D>
CauseRule<D> not_solid();
template <int D>
CauseRule<D> not_sensed();
template <int D>
CauseRule<D> sensed_only();
template <int D>
CauseRule<D> one_way_side();
template <int D>
CauseRule<D> combined_out();
template <int D>
CauseRule<D> gated_off();
template <int D>
CauseRule<D> combined_in();
template <int D>
CauseRule<D> stale();
template <int D>
CauseRule<D> settling();
template <int D>
CauseRule<D> muted();
template <int D>
CauseRule<D> back_face();
template <int D>
CauseRule<D> stepped_over();
template <int D>
CauseRule<D> too_steep();
template <int D>
CauseRule<D> wider_than_body();
template <int D>
CauseRule<D> edge_graze();
template <int D>
CauseRule<D> starts_inside();
template <int D>
CauseRule<D> first_hit_shadowed();
template <int D>
CauseRule<D> angle_refused();
template <int D>
CauseRule<D> reach_short();
template <int D>
CauseRule<D> reach_long();
template <int D>
CauseRule<D> aimed_beside();

template <int D>
std::span<const CauseRule<D>> cause_rules() {
    static const std::array rules = {
        not_mounted<D>(),
        own_body<D>(),
        held<D>(),
        layer_unseen<D>(),
        layer_wrong<D>(),
        not_solid<D>(),
        not_sensed<D>(),
        sensed_only<D>(),
        one_way_side<D>(),
        combined_out<D>(),
        gated_off<D>(),
        combined_in<D>(),
        stale<D>(),
        settling<D>(),
        muted<D>(),
        back_face<D>(),
        stepped_over<D>(),
        too_steep<D>(),
        wider_than_body<D>(),
        edge_graze<D>(),
        starts_inside<D>(),
        first_hit_shadowed<D>(),
        angle_refused<D>(),
        reach_short<D>(),
        reach_long<D>(),
        aimed_beside<D>(),
    };
    return rules;
}

std::string reason_of(const CauseReport& cause, const std::string& who, const std::string& by, Claim claim) {
    for (const CauseRule<2>& rule : cause_rules<2>()) {
        if (rule.kind == cause.cause) return rule.reason({cause, who, by, claim});
    }
    // Of values, and the last resort.
    if (cause.cause == CauseKind::other_probe) return "another probe tells it better";
    if (cause.cause == CauseKind::too_coarse) return "the lines of " + who + " are too far apart";
    return "no change that was tried cures it, one alone or up to three";
}

template std::span<const CauseRule<2>> cause_rules<2>();
template std::span<const CauseRule<3>> cause_rules<3>();

}  // namespace hollow_probe
