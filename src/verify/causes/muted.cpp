// An event keeps it off.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void kept_off(CauseSearch<D>& search) {
    const MuteAfter& mute = search.signal().mute_after;
    if (!search.remembers() || !search.missed() || mute.event.empty()) return;
    search.offer_least(mute.seconds, [&](double amount) {
        return ProvenCause<D>{CauseKind::muted,
                              SetNumber{search.of_signal("mute_after.seconds"), mute.seconds - amount},
                              amount, rank::timed};
    });
}

std::string why_muted(const CauseTold& t) {
    return "an event still keeps it off, by up to " + t.by + " s";
}

}  // namespace

template <int D>
CauseRule<D> muted() {
    return {CauseKind::muted, why_muted, nullptr, kept_off<D>};
}

template CauseRule<2> muted<2>();
template CauseRule<3> muted<3>();

}  // namespace hollow_probe
