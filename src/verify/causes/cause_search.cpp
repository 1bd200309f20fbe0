#include "verify/causes/cause_search.hpp"

#include <algorithm>

#include "verify/causes/causes.hpp"

namespace hollow_probe {

template <int D>
CauseSearch<D>::CauseSearch(Alternatives<D>& alternatives, const SurveyPose<D>& pose, std::size_t signal)
    : alternatives_(alternatives),
      s_(alternatives.planned()),
      pose_(pose),
      way_(way_to<D>(s_, pose)),
      facing_(s_.facings[pose.facing]),
      mounted_(s_.mounted[pose.facing]),
      level_(s_.level_of(pose.facing)),
      signal_(signal),
      claim_(*s_.rig.signals[signal].claims),
      missed_(pose.verdict(signal) == Verdict::missed_contact),
      unit_(s_.body_size),
      readings_(mounted_.probes.size()) {
    read_along<D>(s_, way_);
    hear<D>(s_, mounted_, way_, readings_);
    if (missed_)
        truth_ = answer<D>(claim_, level_, s_.question(pose.facing, signal, pose.anchor), s_.rig.intent);
}

template <int D>
std::vector<ProvenCause<D>> CauseSearch<D>::singles() {
    for (std::size_t i = 0; i < mounted_.probes.size(); ++i) look_at(i);
    probe_ = -1;
    for (const CauseRule<D>& rule : cause_rules<D>()) {
        if (rule.of_signal != nullptr) rule.of_signal(*this);
    }
    std::stable_sort(causes_.begin(), causes_.end(),
                     [](const auto& a, const auto& b) { return a.rank < b.rank; });
    if (causes_.empty()) causes_.push_back({});
    return std::move(causes_);
}

/// A probe is at fault only if the signal would be right with it the other way.
template <int D>
void CauseSearch<D>::look_at(std::size_t index) {
    const MountedProbe<D>& looked = mounted_.probes[index];
    if (!looked.mounted || !looked.aimed) return;
    ReadingSet bits = mounted_.bits_about(index);
    const auto right_with = [&](ReadingSet on) { return mounted_.signals_on(on).has(signal_) == missed_; };
    bool right_on = right_with(pose_.probes_on | bits);
    if (right_on == right_with(pose_.probes_on & ~bits)) {
        // It may be that what follows it makes the difference: all off where it is off; where it is on, at
        // best as the signals want them.
        const std::vector<std::size_t> followers = followers_of<D>(rig(), index);
        if (followers.empty()) return;
        for (const std::size_t follower : followers) bits |= mounted_.bits_about(follower);
        ReadingSet unwanted;
        for (const auto* groups : {&mounted_.signals, &mounted_.groups}) {
            for (const MountedGroup& group : *groups) unwanted |= group.none.readings & bits;
        }
        right_on = right_with((pose_.probes_on | bits) & ~unwanted);
        if (right_on == right_with(pose_.probes_on & ~bits)) return;
    }
    probe_ = static_cast<int>(index);
    reading_ = readings_[index];
    should_be_on_ = right_on;
    for (const CauseRule<D>& rule : cause_rules<D>()) {
        if (rule.of_probe != nullptr) rule.of_probe(*this);
    }
}

template <int D>
bool CauseSearch<D>::flips(const ProvenCause<D>& cause) const {
    // Amounts differ from pose to pose.
    if (!amount_of<D>(cause.change)) {
        if (const auto* const kept = alternatives_.of(pose_.facing, cause)) return is_right_with(*kept);
    }
    return is_right_with(Alternative<D>(s_, pose_.facing, cause));
}

template <int D>
Reading<D> CauseSearch<D>::reading_with(const ProvenCause<D>& cause) const {
    if (const auto* const kept = alternatives_.of(pose_.facing, cause)) return kept->reading(pose_);
    return Alternative<D>(s_, pose_.facing, cause).reading(pose_);
}

template <int D>
void CauseSearch<D>::offer(ProvenCause<D> cause) {
    if (flips(cause)) causes_.push_back(std::move(cause));
}

template <int D>
Vec<D> CauseSearch<D>::along() const {
    return body_frame<D>(facing_.heading, level_.up()).transposed() * mounted_probe().lines.front().along;
}

template <int D>
double CauseSearch<D>::hit_incidence() const {
    const Vec<D> back = -(body_frame<D>(facing_.heading, level_.up()) * along());
    return degrees(angle_between<D>(reading_.hit.normal, back));
}

template <int D>
Vec<D> CauseSearch<D>::aside_to_truth() const {
    const Mat<D> frame = body_frame<D>(facing_.heading, level_.up());
    const Vec<D> from = pose_.anchor + reading_.carried + frame * *from_of(probe());
    Vec<D> aside = frame.transposed() * (truth_.point - from);
    const Vec<D> line = along();
    aside -= aside.dot(line) * line;
    return aside;
}

template <int D>
ProvenCause<D> CauseSearch<D>::with_reach(CauseKind kind, double reach, double rank) const {
    const double per_speed = *reach_per_speed_of(probe());
    const char* const key = *reach_grounded_of(probe())
                                ? (facing_.grounded ? "reach.grounded" : "reach.airborne")
                                : (per_speed > 0.0 ? "reach.base" : "reach");
    const double by_speed = per_speed * facing_.velocity.norm();
    return {kind, SetNumber{of_probe(key), std::max(reach - by_speed, 0.0)},
            std::abs(reach - mounted_probe().reach), rank};
}

template <int D>
int CauseSearch<D>::solid() const {
    if (missed_) return truth_.piece ? static_cast<int>(level_.solid_of(*truth_.piece)) : -1;
    const MountedGroup& group = mounted_.signals[signal_];
    for (std::size_t i = 0; i < readings_.size(); ++i) {
        const Reading<D>& reading = readings_[i];
        if (!reading.on || !reading.met || reading.own_body || group.none.readings.has(i)) continue;
        if ((group.members().readings & mounted_.bits_about(i)).any())
            return static_cast<int>(level_.solid_of(reading.hit.piece));
    }
    return -1;
}

template <int D>
Explanation<D> prove_causes(Alternatives<D>& alternatives, const SurveyPose<D>& pose, std::size_t signal) {
    CauseSearch<D> search(alternatives, pose, signal);
    const int solid = search.solid();
    return {search.singles(), solid};
}

template <int D>
std::optional<ProvenCause<D>> prove_combined(Alternatives<D>& alternatives, const SurveyPose<D>& pose,
                                             std::size_t signal) {
    return CauseSearch<D>(alternatives, pose, signal).combined();
}

template Explanation<2> prove_causes<2>(Alternatives<2>&, const SurveyPose<2>&, std::size_t);
template Explanation<3> prove_causes<3>(Alternatives<3>&, const SurveyPose<3>&, std::size_t);
template std::optional<ProvenCause<2>> prove_combined<2>(Alternatives<2>&, const SurveyPose<2>&, std::size_t);
template std::optional<ProvenCause<3>> prove_combined<3>(Alternatives<3>&, const SurveyPose<3>&, std::size_t);
template class CauseSearch<2>;
template class CauseSearch<3>;

}  // namespace hollow_probe
