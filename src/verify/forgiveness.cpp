#include "verify/forgiveness.hpp"

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/truth/doubt.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "verify/hearing.hpp"
#include "verify/truth_store.hpp"

namespace hollow_probe {
namespace {

/// One wrong verdict, and how the body comes to it and goes on from it.
template <int D>
class Plea {
  public:
    Plea(const Planned<D>& s, const SurveyPose<D>& pose, std::size_t signal)
        : s_(s),
          pose_(pose),
          signal_(signal),
          claim_(s.rig.signals[signal].claims.value()),
          on_(pose.signals_on.has(signal)) {}

    /// Found once for all rigs of which the same is asked there.
    bool is_in_doubt() const {
        auto& store = s_.kept.store();
        const Hash128 key = hash_of(pose_.anchor, s_.terms[pose_.facing], static_cast<double>(signal_));
        if (const auto kept = store.doubts.find(key)) return *kept != 0;
        const bool in_doubt = asks_for_doubt();
        store.add_doubt(key, in_doubt);
        return in_doubt;
    }

    bool is_forgiven() const {
        const Forgiveness& forgive = s_.rig.intent.forgive;
        if (!forgive.any()) return false;
        return is_held(forgive) || is_late(forgive) || comes_early(forgive);
    }

  private:
    bool asks_for_doubt() const {
        const Level<D>& level = s_.level_of(pose_.facing);
        const TruthQuestion<D> question = s_.question(pose_.facing, signal_, pose_.anchor);
        const Intent& intent = s_.rig.intent;
        if (beyond_doubt<D>(claim_, level, question, intent)) return false;
        const auto truth = answer<D>(claim_, level, question, intent, 0.0, Margins::left_out);
        return !truth.decided || in_doubt<D>(claim_, level, question, intent, truth.on);
    }

    std::size_t ticks(double seconds) const {
        return static_cast<std::size_t>(std::floor(seconds / s_.tick_seconds + tolerance::tick));
    }
    bool truth_at(const Vec<D>& anchor, const Intent& intent) const {
        return answer<D>(claim_, s_.level_of(pose_.facing), s_.question(pose_.facing, signal_, anchor),
                         intent)
            .on;
    }

    /// Ground that is told as long as contact is remembered.
    bool is_held(const Forgiveness& forgive) const {
        if (claim_ != Claim::ground || !on_ || !s_.facings[pose_.facing].grounded) return false;
        if (forgive.hold <= s_.rig.intent.touch) return false;
        Intent wider = s_.rig.intent;
        wider.touch = forgive.hold;
        return truth_at(pose_.anchor, wider);
    }

    bool is_late(const Forgiveness& forgive) const {
        const std::size_t back = ticks(forgive.late);
        const bool took_off = claim_ == Claim::ground && !on_ && forgive.after_take_off > 0.0;
        if (back == 0 && !took_off) return false;
        const Way<D> way = way_to<D>(s_, pose_);
        const std::size_t last = way.anchors.size() - 1;
        if (took_off && way.jump <= last && last - way.jump <= ticks(forgive.after_take_off)) return true;
        for (std::size_t k = 1; k <= std::min(back, last); ++k) {
            if (truth_at(way.anchors[last - k], s_.rig.intent) == on_) return true;
        }
        return false;
    }

    bool comes_early(const Forgiveness& forgive) const {
        const Vec<D> stride = s_.tick_seconds * s_.facings[pose_.facing].velocity;
        if (stride.is_zero(0.0)) return false;
        Vec<D> at = pose_.anchor;
        for (std::size_t k = 0; k < ticks(forgive.early); ++k) {
            at += stride;
            if (truth_at(at, s_.rig.intent) == on_) return true;
        }
        return false;
    }

    const Planned<D>& s_;
    const SurveyPose<D>& pose_;
    std::size_t signal_;
    Claim claim_;
    bool on_;
};

}  // namespace

template <int D>
void excuse(const Planned<D>& s, SurveyPose<D>& pose) {
    const SignalSet wrong = (pose.signals_on ^ pose.truths_on) & ~pose.undecided;
    for (std::size_t signal = 0; signal < s.rig.signals.size(); ++signal) {
        if (!wrong.has(signal)) continue;
        const Plea<D> plea(s, pose, signal);
        const SignalSet bit = SignalSet::of(signal);
        if (plea.is_in_doubt()) {
            pose.undecided |= bit;
        } else if (plea.is_forgiven()) {
            pose.forgiven |= bit;
        }
    }
}

template <int D>
void judge_anew(const Planned<D>& s, SurveyPose<D>& pose) {
    const MountedRig<D>& mounted = s.mounted[pose.facing];
    const Heard heard = hear<D>(s, mounted, pose);
    pose.probes_on = heard.probes_on;
    pose.signals_on = heard.signals_on;
    Known<D> known;
    pose.truths_on = truths_of_signals<D>(s.level_of(pose.facing), s.rig, mounted, s.situation(pose.facing),
                                          pose.anchor, known)
                         .on |
                     (heard.signals_on & helpers_of<D>(s.rig));
    pose.undecided = pose.forgiven = {};
    excuse<D>(s, pose);
}

template void judge_anew<2>(const Planned<2>&, SurveyPose<2>&);
template void judge_anew<3>(const Planned<3>&, SurveyPose<3>&);
template void excuse<2>(const Planned<2>&, SurveyPose<2>&);
template void excuse<3>(const Planned<3>&, SurveyPose<3>&);

}  // namespace hollow_probe
