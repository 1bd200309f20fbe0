#include "motion/change_cause.hpp"

#include <algorithm>
#include <cmath>

namespace hollow_probe {
namespace {

/// The key without what stands behind it: "accept.angle" of "accept.angle[1]".
std::string_view plain_key(std::string_view key) {
    return key.substr(0, key.find('['));
}

bool begins_with(std::string_view text, std::string_view with) {
    return text.substr(0, with.size()) == with;
}

/// How many names a list has.
std::ptrdiff_t names_in(const std::string& list) {
    return std::count(list.begin(), list.end(), '"') / 2;
}

std::optional<CauseKind> cause_of_signal(std::string_view key, double step, bool missed) {
    if (key == "settle") return step < 0.0 ? std::optional(CauseKind::settling) : std::nullopt;
    if (key == "grace") return step < 0.0 ? std::optional(CauseKind::held) : std::nullopt;
    if (begins_with(key, "mute_after")) return CauseKind::muted;
    if (key == "any" || key == "all" || key == "none" || begins_with(key, "at_least"))
        return missed ? CauseKind::combined_out : CauseKind::combined_in;
    return std::nullopt;
}

std::optional<CauseKind> cause_of_probe(const DrillCure& cure, std::string_view key, double step,
                                        bool missed) {
    const bool less = step < 0.0;
    if (begins_with(key, "reach") || key == "within")
        return less ? CauseKind::reach_long : CauseKind::reach_short;
    if (key == "inset") return less ? CauseKind::reach_short : CauseKind::wider_than_body;
    if (begins_with(key, "shape")) return less ? CauseKind::wider_than_body : CauseKind::aimed_beside;
    if (key == "from" || key == "along" || key == "side" || key == "axes") return CauseKind::aimed_beside;
    if (begins_with(key, "spread")) return missed ? CauseKind::aimed_beside : CauseKind::wider_than_body;
    if (begins_with(key, "accept")) {
        // The lower end narrows upwards, the upper one downwards.
        const bool is_low = cure.key.ends_with("[0]");
        if (less == is_low) return CauseKind::angle_refused;
        return key == "accept.incidence" ? CauseKind::edge_graze : CauseKind::too_steep;
    }
    if (key == "sees")
        return names_in(cure.then) > names_in(cure.now) ? CauseKind::layer_unseen : CauseKind::layer_wrong;
    if (key == "take") return CauseKind::first_hit_shadowed;
    if (key == "if_inside") return CauseKind::starts_inside;
    if (key == "stances") return CauseKind::not_mounted;
    if (key == "one_way") return CauseKind::one_way_side;
    if (key == "faces") return CauseKind::back_face;
    if (key == "reads") return CauseKind::stale;
    if (key == "ignores_body") return CauseKind::own_body;
    if (key == "keeps" || key == "used_by") return CauseKind::held;
    return std::nullopt;
}

}  // namespace

std::optional<CauseKind> cause_of(const DrillCure& cure, double step, double farther) {
    const std::string_view key = plain_key(cure.key);
    const bool missed = cure.after.missed < cure.before.missed;
    // Along its own line a start is as good as a reach.
    if (key == "from" && std::abs(farther) > 0.7 * std::abs(step))
        return farther < 0.0 ? CauseKind::reach_long : CauseKind::reach_short;
    if (cure.table == "probe") return cause_of_probe(cure, key, step, missed);
    if (cure.table == "signal") return cause_of_signal(key, step, missed);
    if (cure.table.empty() && key == "reads") return CauseKind::stale;
    return std::nullopt;
}

}  // namespace hollow_probe
