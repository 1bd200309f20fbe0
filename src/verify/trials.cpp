#include "verify/trials.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/random.hpp"
#include "geometry/together.hpp"
#include "verify/column_bytes.hpp"

namespace hollow_probe {
namespace {

/// Of rigs that remember a change is tried at so many poses, if there are, however many ticks these take.
constexpr std::size_t fewest_poses = 4'000;
/// While a number is being sought it is tried in a quarter as many intervals as there may be readings, and in
/// no more than so many.
constexpr std::size_t most_coarse = 3'000;
/// An interval is looked into at heights no farther apart than this part of the body's height, and at most
/// so many.
constexpr double looks_of_height = 0.5;
constexpr int most_looks = 6;
/// How often the way between two heights that differ is halved.
constexpr int halvings = 7;

/// One of `count` numbers from 0, the same everywhere for one `of`.
std::size_t chance(std::uint64_t of, std::size_t count) {
    return static_cast<std::size_t>(next_random(of) % count);
}

bool is_wrong(Verdict verdict) {
    return verdict == Verdict::missed_contact || verdict == Verdict::false_contact;
}

template <int D>
bool in_one_interval(const SurveyPose<D>& a, const SurveyPose<D>& b, const Vec<D>& up) {
    if (a.facing != b.facing || a.signals_on != b.signals_on || a.truths_on != b.truths_on) return false;
    const Vec<D> way = b.anchor - a.anchor;
    const double rise = up.dot(way);
    const double length = static_cast<double>(a.down) + static_cast<double>(a.up);
    const double noise = 1e-5 * (1.0 + length);  // the ends are kept in single precision
    return (way - rise * up).norm() < 1e-12 * (1.0 + a.anchor.norm()) &&
           std::abs(static_cast<double>(b.down) - static_cast<double>(a.down) - rise) < noise &&
           std::abs(static_cast<double>(a.up) - static_cast<double>(b.up) - rise) < noise;
}

}  // namespace

template <int D>
Trials<D>::Trials(const Planned<D>& planned, const Samples<D>& samples, std::size_t most_readings)
    : s_(planned), samples_(samples) {
    choose_poses(most_readings);
    find_same();
    choose_some(std::clamp<std::size_t>(most_readings / 4, 1, most_coarse));
    if (planned.ticks_before == 0) {
        const std::vector<std::size_t> ask = to_ask(nullptr);
        const auto looks = made_together<std::vector<Look>>(planned.sharing, ask.size(), [&](std::size_t i) {
            planned.stop_if_asked();
            return look_into(intervals_[ask[i]]);
        });
        for (std::size_t i = 0; i < ask.size(); ++i) {
            intervals_[ask[i]].first_look = looks_.size();
            intervals_[ask[i]].looks = looks[i].size();
            looks_.insert(looks_.end(), looks[i].begin(), looks[i].end());
        }
        for (Interval& interval : intervals_) {
            interval.first_look = intervals_[interval.same_as].first_look;
            interval.looks = intervals_[interval.same_as].looks;
        }
        return;
    }
    ways_.resize(poses_.size());
    for_each_index(ways_.size(), [&](std::size_t i) {
        planned.stop_if_asked();
        ways_[i] = way_to<D>(planned, samples.poses[poses_[i]]);
        read_along<D>(planned, ways_[i]);
    });
}

/// Evenly, so many of so many, and by chance among neighbours: columns that are alike would otherwise give
/// the same height each time. Each facing by itself, so that of those that are alike the same are chosen.
template <int D>
void Trials<D>::choose_poses(std::size_t most_readings) {
    const auto kind_of = [&](const SurveyPose<D>& pose) {
        return std::size_t{pose.signals_on != pose.truths_on};  // right ones and wrong ones
    };
    std::array<std::size_t, 2> all{};
    std::vector<std::array<std::size_t, 2>> counts(s_.facings.size());
    for (const SurveyPose<D>& pose : samples_.poses) {
        ++all[kind_of(pose)];
        ++counts[pose.facing][kind_of(pose)];
    }
    const std::size_t most =
        std::max(std::min(fewest_poses, most_readings), most_readings / (1 + s_.ticks_before));
    const std::size_t of_wrong = std::min(all[1], std::max(most / 2, most - std::min(most, all[0])));
    const std::array<std::size_t, 2> wanted = {std::min(all[0], most - of_wrong), of_wrong};
    const std::array<std::size_t, 2> steps = {samples_.right_step, samples_.wrong_step};
    const auto wanted_of = [&](std::size_t facing, std::size_t kind) {
        return (counts[facing][kind] * wanted[kind] + all[kind] - 1) / all[kind];
    };
    std::vector<std::array<std::size_t, 2>> seen(s_.facings.size());
    for (std::size_t i = 0; i < samples_.poses.size(); ++i) {
        const SurveyPose<D>& pose = samples_.poses[i];
        const std::size_t kind = kind_of(pose);
        const std::size_t count = counts[pose.facing][kind];
        const std::size_t chosen = wanted_of(pose.facing, kind);
        const std::size_t n = seen[pose.facing][kind]++;
        if (chosen == 0) continue;
        const std::size_t group = n * chosen / count;
        const std::size_t begin = (group * count + chosen - 1) / chosen;
        const std::size_t end = ((group + 1) * count + chosen - 1) / chosen;
        if (n != begin + chance(group, end - begin)) continue;
        const double weight = static_cast<double>(steps[kind] * count) / static_cast<double>(chosen);
        const bool goes_on =
            !poses_.empty() && in_one_interval<D>(samples_.poses[poses_.back()], pose, s_.level.up());
        if (!goes_on) intervals_.push_back({.first = poses_.size(), .same_as = intervals_.size()});
        ++intervals_.back().count;
        intervals_.back().measure += pose.measure * weight;
        poses_.push_back(i);
        weights_.push_back(weight);
    }
}

/// One of every so many intervals in a row, by chance.
template <int D>
void Trials<D>::choose_some(std::size_t most) {
    constexpr std::size_t fewest = 500;
    coarse_ = std::max<std::size_t>(1, intervals_.size() * (1 + s_.ticks_before) / most);
    coarse_ = std::min(coarse_, std::max<std::size_t>(1, intervals_.size() / fewest));
    for (std::size_t first = 0; first < intervals_.size(); first += coarse_)
        some_.push_back(first + chance(first / coarse_, std::min(coarse_, intervals_.size() - first)));
}

/// Intervals of facings that are alike come in the same order, unless there were too many poses to keep.
template <int D>
void Trials<D>::find_same() {
    std::vector<std::vector<std::size_t>> of_facing(s_.facings.size());
    for (std::size_t i = 0; i < intervals_.size(); ++i) {
        const SurveyPose<D>& pose = samples_.poses[poses_[intervals_[i].first]];
        std::vector<std::size_t>& own = of_facing[pose.facing];
        const std::vector<std::size_t>& others = of_facing[s_.first[pose.facing]];
        own.push_back(i);
        if (s_.is_first(pose.facing) || own.size() > others.size()) continue;
        const Interval& other = intervals_[others[own.size() - 1]];
        const SurveyPose<D>& there = samples_.poses[poses_[other.first]];
        if (pose.anchor == there.anchor && pose.down == there.down && pose.up == there.up &&
            intervals_[i].count == other.count)
            intervals_[i].same_as = others[own.size() - 1];
    }
}

template <int D>
std::vector<std::size_t> Trials<D>::to_ask(const Changed* rigs) const {
    std::vector<bool> same(s_.facings.size(), true);
    for (std::size_t facing = 0; rigs != nullptr && facing < same.size(); ++facing)
        same[facing] = (*rigs)[facing].is_alike((*rigs)[s_.first[facing]]);
    std::vector<std::size_t> ask;
    for (std::size_t i = 0; i < intervals_.size(); ++i) {
        const std::size_t facing = samples_.poses[poses_[intervals_[i].first]].facing;
        if (intervals_[i].same_as == i || !same[facing]) ask.push_back(i);
    }
    return ask;
}

template <int D>
typename Trials<D>::Changed Trials<D>::changed(const ProvenCause<D>& cause) const {
    Changed rigs;
    for (std::size_t facing = 0; facing < s_.facings.size(); ++facing)
        rigs.emplace_back(s_, facing, cause).prepare();
    return rigs;
}

template <int D>
SignalSet Trials<D>::signals_at(const Changed& rigs, std::size_t pose) const {
    const SurveyPose<D>& there = samples_.poses[poses_[pose]];
    const Alternative<D>& rig = rigs[there.facing];
    return ways_.empty() ? rig.signals_on(there) : rig.signals_on(there, ways_[pose]);
}

/// Calls visit(signal, verdict before, verdict after) for the signals that a change turns.
template <int D>
template <class Visit>
void Trials<D>::for_each_turned(const SurveyPose<D>& as_it_was, SignalSet signals_on, Visit visit) const {
    SurveyPose<D> after = as_it_was;
    after.signals_on = signals_on;
    const SignalSet turned = as_it_was.signals_on ^ signals_on;
    for (std::size_t signal = 0; signal < s_.rig.signals.size(); ++signal) {
        if (!turned.has(signal) || !s_.rig.signals[signal].claims) continue;
        // What is forgiven as it is need not be so the other way.
        after.forgiven = as_it_was.forgiven & ~SignalSet::of(signal);
        visit(signal, as_it_was.verdict(signal), after.verdict(signal));
    }
}

template <int D>
void Trials<D>::add(const SurveyPose<D>& as_it_was, SignalSet signals_on, double measure,
                    Turned& turned) const {
    turned.signals |= as_it_was.signals_on ^ signals_on;
    for_each_turned(as_it_was, signals_on, [&](std::size_t, Verdict was, Verdict is) {
        if (is_wrong(was) && !is_wrong(is)) turned.cured += measure;
        if (!is_wrong(was) && is_wrong(is)) turned.spoiled += measure;
    });
}

/// One interval from its lower to its upper end. A rig that remembers is asked at the poses alone: what else
/// it would have come by is not known in between.
template <int D>
typename Trials<D>::Turned Trials<D>::turn(const Changed& rigs, const Interval& interval,
                                           std::span<const SignalSet> at_poses) const {
    Turned turned;
    const SurveyPose<D>& there = samples_.poses[poses_[interval.first]];
    const double low = -static_cast<double>(there.down);
    const double length = static_cast<double>(there.up) - low;
    if (!ways_.empty() || !(length > 0.0)) {
        for (const SignalSet on : at_poses)
            add(there, on, interval.measure / static_cast<double>(at_poses.size()), turned);
        return turned;
    }
    struct Seen {
        double height = 0.0;
        ReadingSet probes_on;  // as the rig is
        SignalSet on;          // as it is changed
    };
    SurveyPose<D> pose = there;
    const auto see = [&](const Look& look) {
        pose.anchor = there.anchor + look.height * s_.level.up();
        pose.above_rest = there.above_rest + look.height;
        pose.probes_on = look.probes_on;
        return Seen{look.height, look.probes_on, rigs[there.facing].signals_on(pose)};
    };
    const auto take = [&](const Seen& from, const Seen& to) {
        const double measure = interval.measure * (to.height - from.height) / length;
        add(there, from.on, 0.5 * measure, turned);
        add(there, to.on, 0.5 * measure, turned);
    };
    const std::span<const Look> looks = std::span(looks_).subspan(interval.first_look, interval.looks);
    Seen last = see(looks.front());
    add(there, last.on, interval.measure * (last.height - low) / length, turned);
    for (const Look& look : looks.subspan(1)) {
        Seen before = last;
        Seen after = see(look);
        last = after;
        for (int k = 0; k < halvings && before.on != after.on; ++k) {
            const double half_way = 0.5 * (before.height + after.height);
            // What the rig surveyed feels alike at both heights it is taken to feel in between.
            const bool is_felt_alike = before.probes_on == after.probes_on;
            const Seen middle =
                see(is_felt_alike ? Look{half_way, before.probes_on} : look_at(interval, half_way));
            if (middle.on == before.on) {
                take(before, middle);
                before = middle;
            } else if (middle.on == after.on) {
                take(middle, after);
                after = middle;
            } else {
                break;  // more than one change: half way will do
            }
        }
        take(before, after);
    }
    add(there, last.on, interval.measure * (low + length - last.height) / length, turned);
    return turned;
}

/// The probes that are on at a height of an interval, as the rig is.
template <int D>
typename Trials<D>::Look Trials<D>::look_at(const Interval& interval, double height) const {
    const SurveyPose<D>& there = samples_.poses[poses_[interval.first]];
    SurveyPose<D> pose = there;
    pose.anchor = there.anchor + height * s_.level.up();
    pose.above_rest = there.above_rest + height;
    return {height, hear<D>(s_, s_.mounted[there.facing], pose).probes_on};
}

template <int D>
std::vector<typename Trials<D>::Look> Trials<D>::look_into(const Interval& interval) const {
    const SurveyPose<D>& there = samples_.poses[poses_[interval.first]];
    const double low = -static_cast<double>(there.down);
    const double length = static_cast<double>(there.up) - low;
    // Just inside of the ends, which were located to within rounding of a float.
    const double inset = std::min(0.125 * length, 1e-3 * s_.rig.intent.touch);
    const double tall = s_.rig.body.stances[s_.facings[there.facing].stance].shape.bounds().size()[1];
    const int looks = std::clamp(static_cast<int>(length / (looks_of_height * tall)) + 1, 1, most_looks);
    std::vector<Look> all;
    for (int i = 0; i <= looks; ++i)
        all.push_back(look_at(interval, low + inset + (length - 2.0 * inset) * i / looks));
    return all;
}

template <int D>
typename Trials<D>::Outcome Trials<D>::outcome(const ProvenCause<D>& cause) const {
    const Changed rigs = changed(cause);
    const std::vector<std::size_t> ask = to_ask(&rigs);
    using OfInterval = std::pair<std::vector<SignalSet>, Turned>;
    const auto made = made_together<OfInterval>(s_.sharing, ask.size(), [&](std::size_t i) {
        s_.stop_if_asked();
        const Interval& interval = intervals_[ask[i]];
        OfInterval of_interval;
        for (std::size_t k = 0; k < interval.count; ++k)
            of_interval.first.push_back(signals_at(rigs, interval.first + k));
        of_interval.second = turn(rigs, interval, of_interval.first);
        return of_interval;
    });
    Outcome result;
    result.signals_on.reserve(poses_.size());
    std::size_t next = 0;
    for (std::size_t i = 0; i < intervals_.size(); ++i) {
        const Interval& interval = intervals_[i];
        if (next < ask.size() && ask[next] == i) {
            const OfInterval& of_interval = made[next++];
            result.signals_on.insert(result.signals_on.end(), of_interval.first.begin(),
                                     of_interval.first.end());
            result.intervals.push_back(of_interval.second);
            continue;
        }
        const std::size_t first = intervals_[interval.same_as].first;
        for (std::size_t k = 0; k < interval.count; ++k) {
            const SignalSet on = result.signals_on[first + k];
            result.signals_on.push_back(on);
        }
        const Turned same = result.intervals[interval.same_as];
        result.intervals.push_back(same);
    }
    return result;
}

/// One of those that about() asks.
template <int D>
typename Trials<D>::Turned Trials<D>::turn_some(const Changed& rigs, std::size_t number) const {
    s_.stop_if_asked();
    const Interval& interval = intervals_[some_[number]];
    std::vector<SignalSet> on;
    if (!ways_.empty()) {
        for (std::size_t k = 0; k < interval.count; ++k) on.push_back(signals_at(rigs, interval.first + k));
    }
    return turn(rigs, interval, on);
}

template <int D>
typename Trials<D>::About Trials<D>::about(const ProvenCause<D>& cause) const {
    const Changed rigs = changed(cause);
    return made_together<Turned>(s_.sharing, some_.size(), [&](std::size_t i) { return turn_some(rigs, i); });
}

template <int D>
typename Trials<D>::About Trials<D>::about_between(const ProvenCause<D>& cause, const About& one,
                                                   const About& other) const {
    std::vector<std::size_t> open;
    for (std::size_t i = 0; i < some_.size(); ++i) {
        if (one[i] != other[i]) open.push_back(i);
    }
    const Changed rigs = changed(cause);
    const auto turned = made_together<Turned>(s_.sharing, open.size(),
                                              [&](std::size_t i) { return turn_some(rigs, open[i]); });
    About about = one;
    for (std::size_t i = 0; i < open.size(); ++i) about[open[i]] = turned[i];
    return about;
}

template <int D>
typename Trials<D>::Turned Trials<D>::total(const About& about) const {
    Turned all;
    for (const Turned& one : about) {  // in their order, whatever the threads
        all.signals |= one.signals;
        all.cured += one.cured * static_cast<double>(coarse_);
        all.spoiled += one.spoiled * static_cast<double>(coarse_);
    }
    return all;
}

template <int D>
double Trials<D>::worth_after(const std::vector<const Outcome*>& made, const Outcome& outcome) const {
    double gain = 0.0;
    for (std::size_t i = 0; i < intervals_.size(); ++i) {
        const bool settled = std::any_of(made.begin(), made.end(), [&](const Outcome* other) {
            return (other->intervals[i].signals & outcome.intervals[i].signals).any();
        });
        if (!settled) gain += outcome.intervals[i].cured - outcome.intervals[i].spoiled;
    }
    return gain;
}

template <int D>
typename Trials<D>::Totals Trials<D>::totals_of(const Outcome& outcome) const {
    Totals totals;
    for (const Turned& turned : outcome.intervals) {
        totals.gain += turned.cured - turned.spoiled;
        totals.spoils += turned.spoiled;
    }
    for (std::size_t i = 0; i < poses_.size(); ++i) add(i, outcome.signals_on[i], weights_[i], totals);
    return totals;
}

/// Counts what a change turns at one of the poses tried.
template <int D>
void Trials<D>::add(std::size_t pose, SignalSet signals_on, double weight, Totals& totals) const {
    for_each_turned(samples_.poses[poses_[pose]], signals_on, [&](std::size_t, Verdict was, Verdict is) {
        if (is_wrong(was) == is_wrong(is)) return;
        double& count = is_wrong(was)                   ? totals.cured
                        : is == Verdict::missed_contact ? totals.missed
                                                        : totals.falsely;
        count += weight;
    });
}

template <int D>
std::optional<std::size_t> Trials<D>::place_of(std::size_t pose) const {
    const auto found = std::lower_bound(poses_.begin(), poses_.end(), pose);
    if (found == poses_.end() || *found != pose) return std::nullopt;
    return static_cast<std::size_t>(found - poses_.begin());
}

template <int D>
bool Trials<D>::cures(std::size_t pose, SignalSet signals_on, std::size_t signal) const {
    bool cured = false;
    for_each_turned(samples_.poses[poses_[pose]], signals_on,
                    [&](std::size_t turned, Verdict was, Verdict is) {
                        cured = cured || (turned == signal && is_wrong(was) && !is_wrong(is));
                    });
    return cured;
}

template <int D>
void Trials<D>::count(const Outcome& outcome, const Totals& totals, std::size_t signal,
                      const std::vector<std::size_t>& mine, std::size_t stands_for,
                      CauseReport& report) const {
    Mine of_mine;
    for (const std::size_t pose : mine) {
        const auto place = place_of(pose);
        if (!place) continue;  // not tried
        of_mine.all += weights_[*place];
        if (cures(*place, outcome.signals_on[*place], signal)) of_mine.cured += weights_[*place];
    }
    report.tried = poses_.size();
    fill_in(totals, of_mine, stands_for, report);
}

template <int D>
void Trials<D>::count_about(const ProvenCause<D>& cause, const Turned& about, std::size_t signal,
                            const std::vector<std::size_t>& mine, std::size_t stands_for,
                            CauseReport& report) const {
    std::vector<std::size_t> asked;
    for (const std::size_t pose : mine) {
        if (const auto place = place_of(pose)) asked.push_back(*place);
    }
    const std::size_t own = asked.size();
    for (const std::size_t number : some_) {
        const Interval& interval = intervals_[number];
        for (std::size_t pose = interval.first; pose < interval.first + interval.count; ++pose) {
            if (!std::binary_search(mine.begin(), mine.end(), poses_[pose])) asked.push_back(pose);
        }
    }
    const Changed rigs = changed(cause);
    const auto on = made_together<SignalSet>(s_.sharing, asked.size(), [&](std::size_t i) {
        s_.stop_if_asked();
        return signals_at(rigs, asked[i]);
    });
    Totals totals{about.cured - about.spoiled, about.spoiled};
    Mine of_mine;
    for (std::size_t i = 0; i < asked.size(); ++i) {
        const double weight = weights_[asked[i]] * (i < own ? 1.0 : static_cast<double>(coarse_));
        add(asked[i], on[i], weight, totals);
        if (i >= own) continue;
        of_mine.all += weight;
        if (cures(asked[i], on[i], signal)) of_mine.cured += weight;
    }
    report.tried = asked.size();
    fill_in(totals, of_mine, stands_for, report);
}

template <int D>
void Trials<D>::fill_in(const Totals& totals, const Mine& mine, std::size_t stands_for,
                        CauseReport& report) const {
    const auto whole = [](double count) { return static_cast<std::size_t>(std::llround(count)); };
    report.of = samples_.poses.size();
    report.gain = totals.gain;
    report.spoils = totals.spoils;
    // Where not all were tried the share of those that were stands for all.
    report.cures = mine.all > 0.0 ? whole(static_cast<double>(stands_for) * mine.cured / mine.all) : 0;
    report.cures_elsewhere = whole(totals.cured - mine.cured);
    report.adds_missed = whole(totals.missed);
    report.adds_false = whole(totals.falsely);
}

template class Trials<2>;
template class Trials<3>;

}  // namespace hollow_probe
