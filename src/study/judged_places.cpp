#include "study/judged_places.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "geometry/random.hpp"
#include "geometry/together.hpp"
#include "hollow_probe/rig/differences.hpp"
#include "hollow_probe/study/gauge.hpp"
#include "verify/facings_alike.hpp"
#include "verify/forgiveness.hpp"
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

/// Nothing lies in an empty box.
template <int D>
bool lies_in(const Bounds<D>& box, const Bounds<D>& outer) {
    return all_at_most(outer.low, box.low) && all_at_most(box.high, outer.high);
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
    bool feels = false;                  // one of them is told by what the move touched
    std::vector<Bounds<D>> boxes;        // by facing, then as `probes`: what each may meet
    std::optional<Rig<D>> rig;           // that remembers, and what is planned for it
    std::optional<Planned<D>> whole;
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
Bounds<D> JudgedPlaces<D>::passed_over(const Interval& interval, const Bounds<D>& box) const {
    const auto at_height = [&](float height) {
        return box.moved(interval.pose.anchor + static_cast<double>(height) * level_.up());
    };
    Bounds<D> passed = at_height(-interval.pose.down);
    passed.grow(at_height(interval.pose.up));
    return passed;
}

template <int D>
void JudgedPlaces<D>::look_around(Interval& interval) const {
    constexpr std::size_t most_pieces = 8;
    Bounds<D> reached;
    for (const MountedProbe<D>& probe : planned_.mounted[interval.pose.facing].probes)
        reached.grow(probe.bounds());
    if (reached.empty()) return;
    const Bounds<D> passed = passed_over(interval, reached);
    const Level<D>& level = planned_.level_of(interval.pose.facing);
    const double hair = tolerance::accuracy * (planned_.body_size + magnitude(level.bounds()));
    for (const double room : {0.5, 0.25, 0.1}) {
        interval.around = passed.inflated(room * planned_.body_size);
        interval.pieces.clear();
        level.tree().overlapping(interval.around, all_layers, [&](std::uint32_t piece) {
            interval.pieces.push_back(bounds_of(level.piece(piece)).inflated(hair));
            return interval.pieces.size() <= most_pieces;
        });
        if (interval.pieces.size() <= most_pieces) return;
    }
    interval.around = {};
    interval.pieces = {};
}

template <int D>
bool JudgedPlaces<D>::is_wrong(const SurveyPose<D>& pose) const {
    return ((pose.signals_on ^ pose.truths_on) & judged_ & ~pose.undecided & ~pose.forgiven).any();
}

template <int D>
std::size_t JudgedPlaces<D>::wrong_poses(const Survey<D>& survey) const {
    const auto count = std::count_if(survey.poses.begin(), survey.poses.end(),
                                     [&](const auto& pose) { return is_wrong(pose); });
    return static_cast<std::size_t>(count);
}

namespace {

/// Of so many things every so many give at most `most`; 0: none.
std::size_t one_in(std::size_t count, std::size_t most) {
    return most == 0 ? 0 : (count + most - 1) / most;
}

}  // namespace

template <int D>
void JudgedPlaces<D>::add(const Survey<D>& survey, std::size_t most_right, std::size_t most_wrong) {
    const std::size_t wrong = wrong_poses(survey);
    const std::array every = {one_in(survey.poses.size() - wrong, most_right), one_in(wrong, most_wrong)};
    const std::array kept = {survey.right_kept_of, survey.wrong_kept_of};
    for (const std::size_t kind : {0U, 1U})
        chances_[kind] = every[kind] == 0 ? 0.0 : 1.0 / static_cast<double>(kept[kind] * every[kind]);
    choose(survey, every);
    for (Interval& interval : intervals_) {
        const SurveyPose<D>& pose = interval.pose;
        interval.chance = interval.chances = chances_[is_wrong(pose) ? 1 : 0];
        const SignalSet concerned = (pose.truths_on | pose.signals_on) & judged_;
        concerned_ += pose.measure / interval.chances * concerned.count();
    }
    look_at(*changed_to(rig_), survey, 0);
}

template <int D>
void JudgedPlaces<D>::add_wrong(const Rig<D>& changed, const Survey<D>& survey, std::size_t most) {
    const std::size_t first = intervals_.size();
    const std::size_t wrong = wrong_poses(survey);
    const std::size_t every = one_in(wrong, most);
    const auto rig = changed_to(changed);
    if (every == 0 || rig == nullptr) return;
    choose(survey, {0, every});
    look_at(*rig, survey, first);
    chosen_.push_back({rig, 1.0 / static_cast<double>(survey.wrong_kept_of * every)});
    const auto itself = changed_to(rig_);
    for_each_index(intervals_.size(), [&](std::size_t i) {
        Interval& interval = intervals_[i];
        if (i < first) {
            if (Judging(*this, *rig, i).is_wrong_at_pose()) interval.chances += chosen_.back().chance;
            return;
        }
        interval.chance = chosen_.back().chance;
        interval.chances = chances_[Judging(*this, *itself, i).is_wrong_at_pose() ? 1 : 0] + interval.chance;
        for (std::size_t k = 0; k + 1 < chosen_.size(); ++k) {
            if (Judging(*this, *chosen_[k].rig, i).is_wrong_at_pose()) interval.chances += chosen_[k].chance;
        }
    });
}

template <int D>
void JudgedPlaces<D>::choose(const Survey<D>& survey, std::array<std::size_t, 2> every) {
    // Each facing by itself, so that of those that are alike the same are chosen.
    std::vector<std::array<std::size_t, 2>> seen(planned_.facings.size());
    for (const SurveyPose<D>& pose : survey.poses) {
        if (is_held(pose.anchor)) continue;
        const std::size_t kind = is_wrong(pose) ? 1 : 0;
        if (every[kind] == 0 || !is_chosen(seen[pose.facing][kind]++, every[kind])) continue;
        intervals_.push_back({pose, 0.0, 0.0, 0, 0, {}, {}, intervals_.size()});
    }
}

template <int D>
void JudgedPlaces<D>::look_at(const Changed& surveyed, const Survey<D>& survey, std::size_t first) {
    for_each_index(intervals_.size() - first, [&](std::size_t i) { excuse_others(first + i); });
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
        Interval& interval = intervals_[first + i];
        look_around(interval);
        for (std::size_t k = 0; k < interval.looks; ++k) {
            Look& look = looks_[interval.first_look + k];
            if (k == 0 || k + 1 == interval.looks)
                look.height = just_inside(surveyed, first + i, look.height);
            look.probes_on =
                hear<D>(planned_, planned_.mounted[interval.pose.facing], at(interval, look.height))
                    .probes_on;
        }
    });
}

template <int D>
void JudgedPlaces<D>::excuse_others(std::size_t number) {
    SurveyPose<D>& pose = intervals_[number].pose;
    SurveyPose<D> other = pose;
    other.signals_on = pose.truths_on ^ judged_;  // helpers, which claim nothing, are never wrong
    excuse<D>(planned_, other);
    pose.undecided |= other.undecided;
    pose.forgiven |= other.forgiven;
}

template <int D>
double JudgedPlaces<D>::just_inside(const Changed& surveyed, std::size_t number, double height) const {
    const Interval& interval = intervals_[number];
    const Judging judging(*this, surveyed, number);
    const double end = height < 0.0 ? -static_cast<double>(interval.pose.down) : interval.pose.up;
    const auto is_alike = [&](double there) {
        SurveyPose<D> pose = at(interval, there);
        judge_anew<D>(planned_, pose);
        return ((pose.truths_on ^ interval.pose.truths_on) & judged_).none() &&
               ((judging.said_at(there) ^ interval.pose.signals_on) & judged_).none();
    };
    if (is_alike(height)) return height;
    double outside = height;
    double inside = end - std::copysign(std::min(planned_.finest(), 0.5 * std::abs(end)), end);
    if (!is_alike(inside)) return 0.0;
    constexpr int halvings = 5;
    for (int n = 0; n < halvings; ++n) {
        const double middle = 0.5 * (inside + outside);
        (is_alike(middle) ? inside : outside) = middle;
    }
    return inside;
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
        if (other == i || !same[intervals_[i].pose.facing] ||
            intervals_[i].chances != intervals_[other].chances)
            continue;
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
    Judging(const JudgedPlaces& places, const Changed& changed, std::size_t number,
            Counted counted = Counted::shared)
        : p_(places),
          changed_(changed),
          number_(number),
          interval_(places.intervals_[number]),
          times_(1.0 / (counted == Counted::shared ? interval_.chances : interval_.chance)),
          counted_(places.judged_ & ~interval_.pose.undecided & ~interval_.pose.forgiven),
          low_(-static_cast<double>(interval_.pose.down)),
          length_(static_cast<double>(interval_.pose.up) - low_) {
        // Rigs that remember are not mounted probe by probe.
        if (changed.whole) return;
        const std::size_t first = interval_.pose.facing * changed.probes.size();
        for (std::size_t k = 0; k < changed.probes.size(); ++k) {
            anew_ |= rig().bits_about(changed.probes[k]);
            const Bounds<D>& box = changed.boxes[first + k];
            if (!box.empty() && lies_in<D>(p_.passed_over(interval_, box), interval_.around))
                known_.put(changed.probes[k]);
        }
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

    [[nodiscard]] bool is_wrong_at_pose() const {
        return ((said_at(0.0) ^ interval_.pose.truths_on) & counted_).any();
    }

    /// What the changed rig says at a height, from the pose.
    [[nodiscard]] SignalSet said_at(double height) const {
        if (!changed_.whole) return said(height, nullptr);
        const SurveyPose<D> pose = p_.at(interval_, height);
        return hear<D>(*changed_.whole, changed_.whole->mounted[pose.facing], pose).signals_on;
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
        const double weighed = times_ * measure;
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
        if (known == nullptr) {
            if (p_.planned_.feels_contacts) contacts = contacts_at<D>(p_.planned_, rig(), facing, anchor);
            return rig().signals_on(rig().probes_on(level, anchor, {}, contacts));
        }
        ReadingSet on = *known & ~anew_;
        if (changed_.feels) contacts = contacts_at<D>(p_.planned_, rig(), facing, anchor);
        const Bounds<D>* box = &changed_.boxes[facing * changed_.probes.size()];
        for (const std::size_t i : changed_.probes) {
            const bool may_meet = !known_.has(i) || any_piece_in(box->moved(anchor));
            ++box;
            if (may_meet) on |= rig().bits_at(i, level, anchor, contacts);
        }
        return rig().signals_on(on);
    }

    [[nodiscard]] bool any_piece_in(const Bounds<D>& box) const {
        return std::any_of(interval_.pieces.begin(), interval_.pieces.end(),
                           [&](const Bounds<D>& piece) { return piece.overlaps(box); });
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
    double times_;
    SignalSet counted_;
    double low_;
    double length_;
    ReadingSet anew_;
    ReadingSet known_;  // of these, that have only pieces within reach that are known
    PlacesScore score_;
};

template <int D>
std::shared_ptr<const typename JudgedPlaces<D>::Changed> JudgedPlaces<D>::changed_to(
    const Rig<D>& rig) const {
    auto changed = std::make_shared<Changed>();
    if (planned_.ticks_before > 0 || has_memory<D>(rig) || has_memory<D>(rig_)) {
        changed->rig = rig;
        changed->whole.emplace(level_, *changed->rig, options_, kept_);
        // In other states nothing is known of it.
        if (changed->whole->facings.size() != planned_.facings.size()) return nullptr;
        return changed;
    }
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
            anew[i] =
                anew[i] || conditions || (!any && rig.probes[i].name == change.name) || change.table.empty();
    }
    for (std::size_t i = 0; i < anew.size(); ++i) {
        if (!anew[i]) continue;
        changed->probes.push_back(i);
        changed->feels = changed->feels || rig.probes[i].kind() == ProbeKind::contact;
        for (const std::size_t follower : followers_of<D>(rig, i)) anew[follower] = true;
    }
    for (std::size_t facing = 0; facing < planned_.facings.size(); ++facing)
        changed->mounted.emplace_back(rig, level_, planned_.facings[facing].stance,
                                      planned_.situation(facing));
    for (const MountedRig<D>& mounted : changed->mounted) {
        for (const std::size_t i : changed->probes) {
            const MountedProbe<D>& probe = mounted.probes[i];
            const bool by_itself = probe.is_line() && probe.followed.empty() && !probe.meets_own_body;
            changed->boxes.push_back(by_itself && probe.mounted && probe.aimed ? probe.bounds()
                                                                               : Bounds<D>{});
        }
    }
    return changed;
}

template <int D>
PlacesScore JudgedPlaces<D>::score(const Rig<D>& rig, const Asking& asking) const {
    const std::shared_ptr<const Changed> of_rig = changed_to(rig);
    if (of_rig == nullptr) return {infinity, infinity};
    const Changed& changed = *of_rig;
    const std::vector<double> times = times_of(changed);
    constexpr std::size_t at_once = 128;
    const std::size_t count = (intervals_.size() + at_once - 1) / at_once;
    PlacesScore score;
    // What is asked first is from all over the level; each time as much as before.
    std::size_t done = 0;
    std::size_t now = asking.is_enough ? 2 : count;
    for (; done < count; now = done) {
        now = std::min(now, count - done);
        const auto parts = made_together<PlacesScore>(planned_.sharing, now, [&](std::size_t i) {
            PlacesScore part;
            for (std::size_t k = done + i; k < intervals_.size(); k += count) {
                if (times[k] > 0.0 && is_chosen(k, asking.one_in))
                    part += times[k] * Judging(*this, changed, k, asking.counted).run();
            }
            return static_cast<double>(asking.one_in) * part;
        });
        for (const PlacesScore& part : parts) score += part;  // in one order, whatever the threads
        done += now;
        if (done < count && asking.is_enough && asking.is_enough(score)) break;
    }
    return score;
}

template class JudgedPlaces<2>;
template class JudgedPlaces<3>;

}  // namespace hollow_probe
