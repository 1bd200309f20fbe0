#include "verify/proven_cause.hpp"

#include <cmath>

namespace hollow_probe {

template <int D>
std::optional<Rig<D>> with_change(const Rig<D>& given, const ProvenCause<D>& cause) {
    Rig<D> rig = given;
    if (!make<D>(cause.change, rig)) return std::nullopt;
    for (const ProvenCause<D>& further : cause.with) {
        auto more = with_change<D>(rig, further);
        if (!more) return std::nullopt;
        rig = std::move(*more);
    }
    return rig;
}

template <int D>
void describe(const Level<D>& level, const Rig<D>& rig, const ProvenCause<D>& cause, CauseReport& report) {
    report.cause = cause.kind;
    report.by = cause.by;
    if (std::holds_alternative<std::monostate>(cause.change)) return;
    ChangeWords words = words_of<D>(cause.change, rig, level);
    report.probe = std::move(words.probe);
    report.parameter = std::move(words.parameter);
    report.now = std::move(words.now);
    report.needs = std::move(words.needs);
    report.needs_number = words.number;
    if (const auto changed = with_change<D>(rig, cause)) report.edits = differences<D>(rig, *changed);
    for (const ProvenCause<D>& further : cause.with)
        describe<D>(level, rig, further, report.with.emplace_back());
}

template <int D>
void set_amount(ProvenCause<D>& cause, double amount, double unchanged) {
    set_amount<D>(cause.change, amount);
    cause.by = std::abs(amount - unchanged);
}

template std::optional<Rig<2>> with_change<2>(const Rig<2>&, const ProvenCause<2>&);
template std::optional<Rig<3>> with_change<3>(const Rig<3>&, const ProvenCause<3>&);
template void describe<2>(const Level<2>&, const Rig<2>&, const ProvenCause<2>&, CauseReport&);
template void describe<3>(const Level<3>&, const Rig<3>&, const ProvenCause<3>&, CauseReport&);
template void set_amount<2>(ProvenCause<2>&, double, double);
template void set_amount<3>(ProvenCause<3>&, double, double);

}  // namespace hollow_probe
