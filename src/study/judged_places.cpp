#include "study/judged_places.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "geometry/random.hpp"
#include "geometry/together.hpp"
#include "hollow_probe/rig/differences.hpp"
#include "hollow_probe/study/gauge.hpp"
#include "verify/facings_alike.hpp"
#include "verify/hearing.hpp"

namespace hollow_probe {

namespace {

bool has_conditions(const std::vector<Member>& members) {
    return std::any_of(members.begin(), members.end(), [](const Member& member) {
        return member.has_condition() ||
               std::any_of(member.group.begin(), member.group.end(), [](const Group& g) {
                   return has_conditions(g.any) || has_conditions(g.all) || has_conditions(g.none) ||
                          has_conditions(g.at_least.of);
               });
    });
}

/// Of every so many one by chance: columns that are alike would otherwise give the same height each time.
bool is_chosen(std::size_t number, std::size_t one_in) {
    std::uint64_t state = number / one_in;
    return number % one_in == next_random(state) % one_in;
}

}  // namespace

template <int D>
struct JudgedPlaces<D>::Changed {
    std::vector<MountedRig<D>> mounted;  // one a facing
    std::vector<std::size_t> probes;     // that are to be read anew
    std::optional<Planned<D>> whole;     // of rigs that remember
};

template <int D>
JudgedPlaces<D>::JudgedPlaces(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options,
                              KeptTruths<D>& kept, double held_part, double severity_weight)
    : level_(level),
      rig_(rig),
      planned_(level, rig, options, kept),
      options_(options),
      kept_(kept),
      judged_(SignalSet::below(rig.signals.size()) & ~helpers_of<D>(rig)),
      held_one_in_(held_part > 0.0 ? static_cast<std::size_t>(std::lround(1.0 / held_part)) : 0),
      severity_weight_(severity_weight) {
    // So many stretches along the longest side that two of them are held back at least.
    double longest = 0.0;
    for (int axis = 0; axis < D; ++axis) {
        if (std::abs(level.up()[axis]) < 0.5) longest = std::max(longest, level.bounds().size()[axis]);
    }
    stretch_ = std::max(longest, planned_.body_size) /
               (2.0 * static_cast<double>(std::max<std::size_t>(held_one_in_, 1)));
}

/// Whole stretches are held back: neighbours of what is tuned on would tell nothing.
template <int D>
bool JudgedPlaces<D>::is_held(const Vec<D>& anchor) const {
    if (held_one_in_ == 0) return false;
    std::int64_t number = 0;
    for (int axis = 0; axis < D; ++axis) {
        if (std::abs(level_.up()[axis]) > 0.5) continue;
        number = 7 * number +
                 static_cast<std::int64_t>(std::floor((anchor[axis] - level_.bounds().low[axis]) / stretch_));
    }
    const auto many = static_cast<std::int64_t>(held_one_in_);
    return ((number % many) + many) % many == many / 2;
}

template <int D>
SurveyPose<D> JudgedPlaces<D>::at(const Interval& interval, double height) const {
    SurveyPose<D> pose = interval.pose;
    pose.anchor += height * level_.up();
    pose.above_rest += height;
    return pose;
}

template <int D>
void JudgedPlaces<D>::add(const Survey<D>& survey, std::size_t most_right, std::size_t most_wrong) {
    const std::size_t first = intervals_.size();
    const auto is_wrong = [&](const SurveyPose<D>& pose) {
        return ((pose.signals_on ^ pose.truths_on) & judged_ & ~pose.undecided & ~pose.forgiven).any();
    };
    const auto wrong =
        static_cast<std::size_t>(std::count_if(survey.poses.begin(), survey.poses.end(), is_wrong));
    const auto one_in = [](std::size_t count, std::size_t most) {
        return most == 0 ? std::size_t{0} : (count + most - 1) / most;
    };
    const std::array every = {one_in(survey.poses.size() - wrong, most_right), one_in(wrong, most_wrong)};
    const std::array kept = {survey.right_kept_of, survey.wrong_kept_of};
    // Each facing by itself, so that of those that are alike the same are chosen.
    std::vector<std::array<std::size_t, 2>> seen(planned_.facings.size());
    for (const SurveyPose<D>& pose : survey.poses) {
        if (is_held(pose.anchor)) continue;
        const auto kind = static_cast<std::size_t>(is_wrong(pose));
        if (every[kind] == 0 || !is_chosen(seen[pose.facing][kind]++, every[kind])) continue;
        const auto weight = static_cast<double>(kept[kind] * every[kind]);
        intervals_.push_back({pose, weight, 0, 0, intervals_.size()});
        const SignalSet concerned = (pose.truths_on | pose.signals_on) & judged_;
        concerned_ += weight * pose.measure * concerned.count();
    }
    find_same(first);
    if (severity_weight_ > 0.0) {
        const NearestOther<D> nearest(survey.poses, planned_.grid.axes, survey.spacing);
        const std::size_t signals = rig_.signals.size();
        weights_.resize(intervals_.size() * signals, 1.0F);
        for_each_index(intervals_.size() - first, [&](std::size_t i) {
            for (std::size_t s = 0; s < signals; ++s) {
                if (!judged_.has(s)) continue;
                weights_[(first + i) * signals + s] =
                    static_cast<float>(weight_of(nearest, intervals_[first + i].pose, s));
            }
        });
    }
    if (planned_.ticks_before > 0) return;
    for (std::size_t i = first; i < intervals_.size(); ++i) {
        Interval& interval = intervals_[i];
        const double low = -static_cast<double>(interval.pose.down);
        const double length = static_cast<double>(interval.pose.up) - low;
        const double inset = std::min(0.125 * length, 1e-3 * rig_.intent.touch);
        const double tall =
            rig_.body.stances[planned_.facings[interval.pose.facing].stance].shape.bounds().size()[1];
        const int between = std::clamp(static_cast<int>(length / (0.5 * tall)) + 1, 1, 6);
        interval.first_look = looks_.size();
        for (int k = 0; k <= between; ++k) {
            const double part = static_cast<double>(k) / between;
            looks_.push_back({low + inset + part * (length - 2.0 * inset), {}});
        }
        interval.looks = looks_.size() - interval.first_look;
    }
    for_each_index(intervals_.size() - first, [&](std::size_t i) {
        const Interval& interval = intervals_[first + i];
        for (std::size_t k = 0; k < interval.looks; ++k) {
            Look& look = looks_[interval.first_look + k];
            look.probes_on =
                hear<D>(planned_, planned_.mounted[interval.pose.facing], at(interval, look.height))
                    .probes_on;
        }
    });
}

template <int D>
void JudgedPlaces<D>::find_same(std::size_t first) {
    std::vector<std::vector<std::size_t>> of_facing(planned_.facings.size());
    for (std::size_t i = first; i < intervals_.size(); ++i) {
        const SurveyPose<D>& pose = intervals_[i].pose;
        std::vector<std::size_t>& own = of_facing[pose.facing];
        const std::vector<std::size_t>& others = of_facing[planned_.first[pose.facing]];
        own.push_back(i);
        if (planned_.is_first(pose.facing) || own.size() > others.size()) continue;
        const SurveyPose<D>& there = intervals_[others[own.size() - 1]].pose;
        if (pose.anchor == there.anchor && pose.down == there.down && pose.up == there.up &&
            pose.truths_on == there.truths_on && pose.undecided == there.undecided &&
            pose.forgiven == there.forgiven && pose.measure == there.measure)
            intervals_[i].same_as = others[own.size() - 1];
    }
}

template <int D>
std::vector<double> JudgedPlaces<D>::times_of(const Changed& changed) const {
    std::vector<bool> same(planned_.facings.size());
    for (std::size_t facing = 0; facing < same.size(); ++facing) {
        const std::size_t first = planned_.first[facing];
        if (changed.whole) {
            same[facing] = changed.whole->first[facing] == first;
            continue;
        }
        const auto& probes = changed.mounted[facing].probes;
        same[facing] = std::equal(probes.begin(), probes.end(), changed.mounted[first].probes.begin(),
                                  [](const auto& a, const auto& b) { return reads_the_same<D>(a, b); });
    }
    std::vector<double> times(intervals_.size(), 1.0);
    for (std::size_t i = 0; i < intervals_.size(); ++i) {
        const std::size_t other = intervals_[i].same_as;
        if (other == i || !same[intervals_[i].pose.facing]) continue;
        times[i] = 0.0;
        times[other] += 1.0;
    }
    return times;
}

template <int D>
double JudgedPlaces<D>::weight_of(const NearestOther<D>& nearest, const SurveyPose<D>& pose,
                                  std::size_t signal) const {
    constexpr double most_sizes = 3.0;
    const double most = most_sizes * planned_.body_size;
    const double far = std::min(nearest.distance(pose, signal, pose.anchor, most), most);
    return 1.0 + severity_weight_ * far / planned_.body_size;
}

template <int D>
PlacesScore JudgedPlaces<D>::weighed_in(const Survey<D>& survey) const {
    const NearestOther<D> nearest(survey.poses, planned_.grid.axes, survey.spacing);
    std::vector<PlacesScore> scores(survey.poses.size());
    for_each_index(scores.size(), [&](std::size_t i) {
        const SurveyPose<D>& pose = survey.poses[i];
        const SignalSet wrong =
            (pose.signals_on ^ pose.truths_on) & judged_ & ~pose.undecided & ~pose.forgiven;
        if (wrong.none()) return;
        const double measure = pose.measure * static_cast<double>(survey.wrong_kept_of);
        for (std::size_t s = 0; s < rig_.signals.size(); ++s) {
            if (!wrong.has(s)) continue;
            const double weight = severity_weight_ > 0.0 ? weight_of(nearest, pose, s) : 1.0;
            (pose.truths_on.has(s) ? scores[i].missed : scores[i].falsely) += weight * measure;
        }
    });
    PlacesScore sum;
    for (const PlacesScore& score : scores) sum += score;
    return sum;
}

template <int D>
double JudgedPlaces<D>::effort(const Rig<D>& changed) const {
    constexpr std::size_t most = 16;
    if (intervals_.empty()) return 0.0;
    const std::size_t step = (intervals_.size() + most - 1) / most;
    double sum = 0.0;
    std::size_t count = 0;
    for (std::size_t i = 0; i < intervals_.size(); i += step, ++count) {
        const SurveyPose<D>& at = intervals_[i].pose;
        const auto situation = planned_.situation(at.facing);
        Pose<D> pose;
        pose.anchor = at.anchor;
        pose.heading = situation.heading;
        pose.velocity = situation.velocity;
        pose.drive = situation.drive;
        pose.stance = planned_.facings[at.facing].stance;
        const SheetCost cost = cost_of<D>(changed, planned_.level_of(at.facing), pose);
        sum += static_cast<double>(cost.casts + cost.overlaps + cost.pieces);
    }
    return sum / static_cast<double>(count);
}

template <int D>
Wrongness JudgedPlaces<D>::held_in(const Survey<D>& survey) const {
    Wrongness held;
    for (const SurveyPose<D>& pose : survey.poses) {
        if (!is_held(pose.anchor)) continue;
        const SignalSet wrong =
            (pose.signals_on ^ pose.truths_on) & judged_ & ~pose.undecided & ~pose.forgiven;
        const double measure = pose.measure * static_cast<double>(survey.wrong_kept_of);
        const auto missed = static_cast<std::size_t>((wrong & pose.truths_on).count());
        const auto falsely = static_cast<std::size_t>((wrong & pose.signals_on).count());
        held.missed += measure * static_cast<double>(missed);
        held.falsely += measure * static_cast<double>(falsely);
        held.missed_poses += missed;
        held.false_poses += falsely;
    }
    return held;
}

/// One interval as a changed rig is read over its height.
template <int D>
class JudgedPlaces<D>::Judging {
  public:
    Judging(const JudgedPlaces& places, const Changed& changed, std::size_t number)
        : p_(places),
          changed_(changed),
          number_(number),
          interval_(places.intervals_[number]),
          counted_(places.judged_ & ~interval_.pose.undecided & ~interval_.pose.forgiven),
          low_(-static_cast<double>(interval_.pose.down)),
          length_(static_cast<double>(interval_.pose.up) - low_) {
        // Rigs that remember are not mounted probe by probe.
        if (changed.whole) return;
        for (const std::size_t i : changed.probes) anew_ |= rig().bits_about(i);
    }

    PlacesScore run() {
        if (changed_.whole) {
            const Planned<D>& whole = *changed_.whole;
            const MountedRig<D>& heard = whole.mounted[interval_.pose.facing];
            add(hear<D>(whole, heard, interval_.pose).signals_on, interval_.pose.measure);
            return score_;
        }
        const Look* look = &p_.looks_[interval_.first_look];
        Seen last = see(*look);
        add(last.on, part(length_ > 0.0 ? last.height - low_ : 0.0));
        for (std::size_t k = 1; k < interval_.looks; ++k) {
            const Seen after = see(*++look);
            add_between(last, after);
            last = after;
        }
        if (length_ > 0.0) add(last.on, part(low_ + length_ - last.height));
        return score_;
    }

  private:
    struct Seen {
        double height = 0.0;
        SignalSet on;
        ReadingSet read;  // by the rig as it is
    };

    /// From one look to the next: the change between them, if there is one, is halved towards.
    void add_between(Seen before, Seen after) {
        constexpr int halvings = 7;
        for (int n = 0; n < halvings && (before.on & counted_) != (after.on & counted_); ++n) {
            const double height = 0.5 * (before.height + after.height);
            // What is read alike at both ends is taken to be so between them.
            const bool known = ((before.read ^ after.read) & ~anew_).none();
            const Seen middle{height, said(height, known ? &before.read : nullptr), before.read};
            if ((middle.on & counted_) == (before.on & counted_)) {
                add(before.on, part(middle.height - before.height));
                before = middle;
            } else if ((middle.on & counted_) == (after.on & counted_)) {
                add(after.on, part(after.height - middle.height));
                after = middle;
            } else {
                break;  // more than one change: half of each will do
            }
        }
        add(before.on, 0.5 * part(after.height - before.height));
        add(after.on, 0.5 * part(after.height - before.height));
    }

    void add(SignalSet on, double measure) {
        const double weighed = interval_.weight * measure;
        const SignalSet missed = interval_.pose.truths_on & ~on & counted_;
        const SignalSet falsely = on & ~interval_.pose.truths_on & counted_;
        if (p_.weights_.empty()) {
            score_.missed += weighed * static_cast<double>(missed.count());
            score_.falsely += weighed * static_cast<double>(falsely.count());
            return;
        }
        const std::size_t signals = p_.rig_.signals.size();
        const float* const weights = &p_.weights_[number_ * signals];
        for (std::size_t s = 0; s < signals && (missed | falsely).any(); ++s) {
            if (missed.has(s)) score_.missed += weighed * static_cast<double>(weights[s]);
            if (falsely.has(s)) score_.falsely += weighed * static_cast<double>(weights[s]);
        }
    }

    /// What the changed rig says at a height; `known` is what the rig as it is reads there.
    [[nodiscard]] SignalSet said(double height, const ReadingSet* known) const {
        const std::size_t facing = interval_.pose.facing;
        const Level<D>& level = p_.planned_.level_of(facing);
        const Vec<D> anchor = interval_.pose.anchor + height * p_.level_.up();
        std::vector<MoveContact<D>> contacts;
        const auto feels = [&](std::size_t i) { return rig().probes[i].kind == ProbeKind::contact; };
        if (known == nullptr) {
            if (p_.planned_.feels_contacts) contacts = contacts_at<D>(p_.planned_, rig(), facing, anchor);
            return rig().signals_on(rig().probes_on(level, anchor, {}, contacts));
        }
        ReadingSet on = *known;
        if (std::any_of(changed_.probes.begin(), changed_.probes.end(), feels))
            contacts = contacts_at<D>(p_.planned_, rig(), facing, anchor);
        for (const std::size_t i : changed_.probes) {
            on &= ~rig().bits_about(i);
            if (!rig().probes[i].mounted || !rig().probes[i].aimed) continue;
            on |= rig().bits_of(i, rig().probes[i].read(level, rig().body, anchor, contacts));
        }
        return rig().signals_on(on);
    }

    [[nodiscard]] Seen see(const Look& look) const {
        return {look.height, said(look.height, &look.probes_on), look.probes_on};
    }
    [[nodiscard]] double part(double heights) const {
        return length_ > 0.0 ? interval_.pose.measure * heights / length_ : interval_.pose.measure;
    }
    [[nodiscard]] const MountedRig<D>& rig() const { return changed_.mounted[interval_.pose.facing]; }

    const JudgedPlaces& p_;
    const Changed& changed_;
    std::size_t number_;
    const Interval& interval_;
    SignalSet counted_;
    double low_;
    double length_;
    ReadingSet anew_;
    PlacesScore score_;
};

template <int D>
PlacesScore JudgedPlaces<D>::score(const Rig<D>& rig, std::size_t one_in) const {
    Changed changed;
    const bool remembers = planned_.ticks_before > 0 || has_memory<D>(rig) || has_memory<D>(rig_);
    if (remembers) {
        changed.whole.emplace(level_, rig, options_, kept_);
        // In other states nothing is known of it.
        if (changed.whole->facings.size() != planned_.facings.size()) return {infinity, infinity};
    } else {
        std::vector<bool> anew(rig.probes.size());
        for (const FieldChange& change : differences<D>(rig_, rig)) {
            // Conditions of members are read from probes.
            const bool any = change.table != "probe";
            const bool conditions =
                any && std::any_of(rig.signals.begin(), rig.signals.end(), [](const Signal& signal) {
                    return has_conditions(signal.members.any) || has_conditions(signal.members.all) ||
                           has_conditions(signal.members.none) || has_conditions(signal.members.at_least.of);
                });
            for (std::size_t i = 0; i < rig.probes.size(); ++i)
                anew[i] = anew[i] || conditions || (!any && rig.probes[i].name == change.name) ||
                          change.table.empty();
        }
        for (std::size_t i = 0; i < anew.size(); ++i) {
            if (!anew[i]) continue;
            changed.probes.push_back(i);
            for (const std::size_t follower : followers_of<D>(rig, i)) anew[follower] = true;
        }
        for (std::size_t facing = 0; facing < planned_.facings.size(); ++facing)
            changed.mounted.emplace_back(rig, level_, planned_.facings[facing].stance,
                                         planned_.situation(facing));
    }
    const std::vector<double> times = times_of(changed);
    constexpr std::size_t at_once = 128;
    const std::size_t count = (intervals_.size() + at_once - 1) / at_once;
    const auto parts = made_together<PlacesScore>(planned_.sharing, count, [&](std::size_t i) {
        PlacesScore part;
        const std::size_t end = std::min(intervals_.size(), (i + 1) * at_once);
        for (std::size_t k = i * at_once; k < end; ++k) {
            if (times[k] > 0.0 && is_chosen(k, one_in)) part += times[k] * Judging(*this, changed, k).run();
        }
        return static_cast<double>(one_in) * part;
    });
    PlacesScore score;
    for (const PlacesScore& part : parts) score += part;  // in one order, whatever the threads
    return score;
}

template class JudgedPlaces<2>;
template class JudgedPlaces<3>;

}  // namespace hollow_probe
