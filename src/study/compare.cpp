#include "hollow_probe/study/compare.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numeric>
#include <tuple>

#include "hollow_probe/rig/fields.hpp"
#include "hollow_probe/verify/comparison.hpp"

namespace hollow_probe {
namespace {

/// Signals that both rigs have, with the same claim: their numbers in each.
template <int D>
std::vector<std::array<std::size_t, 2>> common_signals(const Rig<D>& a, const Rig<D>& b) {
    std::vector<std::array<std::size_t, 2>> common;
    for (std::size_t i = 0; i < a.signals.size(); ++i) {
        for (std::size_t k = 0; k < b.signals.size(); ++k) {
            const Signal& one = a.signals[i];
            const Signal& other = b.signals[k];
            if (one.claims && one.name == other.name && one.claims == other.claims && one.of == other.of &&
                one.stance == other.stance)
                common.push_back({i, k});
        }
    }
    return common;
}

/// A pose at which the two differ about a signal.
template <int D>
struct Disagreement {
    const SurveyPose<D>* pose;
    const Facing<D>* facing;
    std::string stance;
    std::string signal;
    bool first_is_right;
    Verdict verdict;
};

template <int D>
class SideBySide {
  public:
    SideBySide(const Level<D>& level, const SurveyOptions& options) : level_(level), options_(options) {}

    /// At the poses of one survey; `first_surveyed`: it is the first rig's.
    void add(const Rig<D>& surveyed, const Survey<D>& survey, const Rig<D>& other, bool first_surveyed) {
        const auto common = common_signals<D>(surveyed, other);
        const auto said = said_at<D>(level_, other, surveyed, survey, options_);
        for (std::size_t i = 0; i < said.size(); ++i) {
            if (!said[i]) continue;
            const SurveyPose<D>& pose = survey.poses[i];
            const Facing<D>& facing = survey.facings[pose.facing];
            ++pair.poses;
            for (const auto& [own, others] : common) {
                if (pose.undecided.has(own) || pose.forgiven.has(own)) continue;
                const bool truth = pose.truths_on.has(own);
                const bool own_right = pose.signals_on.has(own) == truth;
                const bool other_right = said[i]->has(others) == truth;
                if (!own_right && !other_right) ++pair.both_wrong;
                if (own_right == other_right) continue;
                const bool first_right = own_right == first_surveyed;
                ++(first_right ? pair.only_first_right : pair.only_second_right);
                all_.push_back({&pose, &facing, surveyed.body.stances[facing.stance].name,
                                surveyed.signals[own].name, first_right,
                                truth ? Verdict::missed_contact : Verdict::false_contact});
            }
        }
    }

    /// Neighbours that differ alike make one place.
    void gather(double cell) {
        using Key = std::tuple<std::string, std::string, bool, Verdict>;
        std::map<Key, std::vector<const Disagreement<D>*>> kinds;
        for (const Disagreement<D>& one : all_)
            kinds[{one.signal, one.stance, one.first_is_right, one.verdict}].push_back(&one);
        for (const auto& [key, members] : kinds) gather_kind(members, cell);
        std::stable_sort(pair.differences.begin(), pair.differences.end(),
                         [](const auto& a, const auto& b) { return a.measure > b.measure; });
    }

    RigPair<D> pair;

  private:
    using Cell = std::array<long, D>;

    void gather_kind(const std::vector<const Disagreement<D>*>& members, double size) {
        std::map<Cell, std::vector<const Disagreement<D>*>> cells;
        for (const Disagreement<D>* one : members) {
            Cell cell{};
            for (int axis = 0; axis < D; ++axis)
                cell[static_cast<std::size_t>(axis)] =
                    std::lround(std::floor(one->pose->anchor[axis] / size));
            cells[cell].push_back(one);
        }
        while (!cells.empty()) {
            std::vector<Cell> open = {cells.begin()->first};
            std::vector<const Disagreement<D>*> place;
            while (!open.empty()) {
                const Cell cell = open.back();
                open.pop_back();
                const auto found = cells.find(cell);
                if (found == cells.end()) continue;
                place.insert(place.end(), found->second.begin(), found->second.end());
                cells.erase(found);
                for (int number = 0; number < (D == 2 ? 9 : 27); ++number) {
                    Cell next = cell;
                    int rest = number;
                    for (std::size_t axis = 0; axis < D; ++axis) {
                        next[axis] += rest % 3 - 1;
                        rest /= 3;
                    }
                    open.push_back(next);
                }
            }
            add_place(place);
        }
    }

    void add_place(const std::vector<const Disagreement<D>*>& place) {
        RigDifference<D> made;
        const Disagreement<D>& any = *place.front();
        made.signal = any.signal;
        made.stance = any.stance;
        made.verdict = any.verdict;
        made.first_is_right = any.first_is_right;
        made.poses = place.size();
        made.bounds = {Vec<D>::constant(infinity), Vec<D>::constant(-infinity)};
        const Disagreement<D>* largest = &any;
        for (const Disagreement<D>* one : place) {
            // Each of the two surveys tells the whole measure.
            made.measure += 0.5 * one->pose->measure;
            made.bounds.low = made.bounds.low.min(one->pose->anchor);
            made.bounds.high = made.bounds.high.max(one->pose->anchor);
            if (one->pose->measure > largest->pose->measure) largest = one;
        }
        made.facing = *largest->facing;
        made.anchor = largest->pose->anchor;
        pair.differences.push_back(std::move(made));
    }

    const Level<D>& level_;
    const SurveyOptions& options_;
    std::vector<Disagreement<D>> all_;
};

}  // namespace

bool RigScore::beats(const RigScore& other) const {
    // Measures that differ by rounding are alike.
    const auto less = [](double a, double b) { return a < b - 1e-6 * std::max(1e-9, b); };
    bool better = false;
    bool worse = false;
    const auto column = [&](double mine, double its) {
        better = better || less(mine, its);
        worse = worse || less(its, mine);
    };
    column(wrong.missed, other.wrong.missed);
    column(wrong.falsely, other.wrong.falsely);
    column(std::min(severity, 1e300), std::min(other.severity, 1e300));
    for (const auto member : {&RigScore::casts, &RigScore::pieces, &RigScore::broken, &RigScore::wrong_ticks,
                              &RigScore::latency, &RigScore::flicker, &RigScore::wrong_lines})
        column(static_cast<double>(this->*member), static_cast<double>(other.*member));
    return better && !worse;
}

std::vector<std::size_t> front_of(const std::vector<RigScore>& scores) {
    std::vector<std::size_t> front;
    for (std::size_t i = 0; i < scores.size(); ++i) {
        const auto beats_it = [&](const RigScore& other) { return other.beats(scores[i]); };
        if (std::none_of(scores.begin(), scores.end(), beats_it)) front.push_back(i);
    }
    return front;
}

template <int D>
RigPair<D> hold_side_by_side(const Level<D>& level, const Rig<D>& first, const Survey<D>& of_first,
                             const Rig<D>& second, const Survey<D>& of_second, const SurveyOptions& options) {
    SideBySide<D> sides(level, options);
    sides.add(first, of_first, second, true);
    sides.add(second, of_second, first, false);
    if (sides.pair.poses == 0)
        throw InvalidInput("the two rigs are surveyed in different states: they have no poses in common");
    sides.gather(1.5 * std::max(of_first.spacing, of_second.spacing));
    RigPair<D> pair = std::move(sides.pair);
    const auto has = [](const Survey<D>& survey, const std::string& id) {
        return std::any_of(survey.findings.begin(), survey.findings.end(),
                           [&](const Finding<D>& finding) { return finding.id == id; });
    };
    for (const Finding<D>& finding : of_first.findings)
        (has(of_second, finding.id) ? pair.unchanged : pair.cured).push_back(finding.id);
    for (const Finding<D>& finding : of_second.findings) {
        if (!has(of_first, finding.id)) pair.fresh.push_back(finding.id);
    }
    return pair;
}

namespace {

template <class Things>
std::vector<std::string> only_in(const Things& these, const Things& others, const char* what) {
    std::vector<std::string> names;
    for (const auto& one : these) {
        const auto same = [&](const auto& other) { return other.name == one.name; };
        if (std::none_of(others.begin(), others.end(), same))
            names.push_back(std::string(what) + " \"" + one.name + "\"");
    }
    return names;
}

/// Whether truths are the same for both.
template <int D>
bool ask_alike(const Rig<D>& a, const Rig<D>& b) {
    const auto same_stance = [](const Stance<D>& one, const Stance<D>& other) {
        return one.name == other.name && one.shape.radius() == other.shape.radius() &&
               one.shape.points() == other.shape.points();
    };
    if (a.body.meets != b.body.meets || a.body.faces != b.body.faces ||
        !std::equal(a.body.stances.begin(), a.body.stances.end(), b.body.stances.begin(),
                    b.body.stances.end(), same_stance))
        return false;
    const auto fields = intent_fields();
    return std::all_of(fields.begin(), fields.end(), [&](const Field<Intent>& field) {
        return field.get == nullptr ||
               text_of(field.get(a.intent), field.words) == text_of(field.get(b.intent), field.words);
    });
}

}  // namespace

template <int D>
std::vector<ComparedPair<D>> compare_pairs(const std::vector<const Rig<D>*>& rigs,
                                           const std::vector<LevelSurveys<D>>& levels) {
    std::vector<ComparedPair<D>> pairs;
    for (std::size_t i = 0; i < rigs.size(); ++i) {
        for (std::size_t k = i + 1; k < rigs.size(); ++k) {
            ComparedPair<D> pair;
            pair.first = i;
            pair.second = k;
            const Rig<D>& first = *rigs[i];
            const Rig<D>& second = *rigs[k];
            pair.changes = differences<D>(first, second);
            pair.only_in_first = only_in(first.probes, second.probes, "probe");
            pair.only_in_second = only_in(second.probes, first.probes, "probe");
            for (auto* const names : {&pair.only_in_first, &pair.only_in_second}) {
                const bool of_first = names == &pair.only_in_first;
                const auto signals = of_first ? only_in(first.signals, second.signals, "signal")
                                              : only_in(second.signals, first.signals, "signal");
                names->insert(names->end(), signals.begin(), signals.end());
            }
            pair.intents_differ = !ask_alike<D>(first, second);
            for (const LevelSurveys<D>& level : levels)
                pair.on.push_back(
                    {level.name, hold_side_by_side<D>(*level.level, first, level.surveys[i], second,
                                                      level.surveys[k], level.options)});
            pairs.push_back(std::move(pair));
        }
    }
    return pairs;
}

template <int D>
RigScore survey_score(const Rig<D>& rig, std::size_t number, const std::vector<LevelSurveys<D>>& levels) {
    RigScore score;
    for (const LevelSurveys<D>& on : levels) {
        const Survey<D>& survey = on.surveys[number];
        score.wrong += survey.wrong;
        score.findings += survey.findings.size();
        for (const Finding<D>& finding : survey.findings)
            score.severity = std::max(score.severity, finding.severity);
        Pose<D> pose;
        pose.heading = survey.facings.front().heading;
        pose.anchor = on.level->bounds().center();
        if (!on.level->starts().empty()) {
            pose.anchor = on.level->starts().front().at;
            pose.heading = on.level->starts().front().heading;
        }
        pose.drive = pose.heading;
        const SheetCost cost = cost_of<D>(rig, *on.level, pose);
        score.casts = std::max(score.casts, cost.casts);
        score.pieces += cost.pieces;
    }
    return score;
}

namespace {

/// The members of a group under new names.
void rename_members(std::vector<Member>& members, const std::string& before) {
    for (Member& member : members) {
        if (!member.name.empty()) member.name = before + member.name;
        for (Group& group : member.group) {
            for (auto* const list : {&group.any, &group.all, &group.none, &group.at_least.of})
                rename_members(*list, before);
        }
    }
}

}  // namespace

template <int D>
Rig<D> both_rigs(const Rig<D>& first, const std::string& first_name, const Rig<D>& second,
                 const std::string& second_name) {
    Rig<D> both;
    both.body = first.body;
    for (const Stance<D>& stance : second.body.stances) {
        const auto same = [&](const Stance<D>& other) { return other.name == stance.name; };
        if (std::none_of(first.body.stances.begin(), first.body.stances.end(), same))
            both.body.stances.push_back(stance);
    }
    both.intent = first.intent;
    both.reads = first.reads;
    const auto add = [&](const Rig<D>& rig, const std::string& name) {
        const std::string before = name + ": ";
        for (Probe<D> probe : rig.probes) {
            // Everywhere means in every stance of its own.
            if (probe.stances.empty() && rig.body.stances.size() < both.body.stances.size()) {
                for (const Stance<D>& stance : rig.body.stances) probe.stances.push_back(stance.name);
            }
            probe.name = before + probe.name;
            if (!probe.follows.empty()) probe.follows = before + probe.follows;
            if (!probe.reads) probe.reads = rig.reads;
            both.probes.push_back(std::move(probe));
        }
        for (Signal signal : rig.signals) {
            signal.name = before + signal.name;
            if (!signal.gives_from.empty()) signal.gives_from = before + signal.gives_from;
            Group& group = signal.members;
            for (auto* const list : {&group.any, &group.all, &group.none, &group.at_least.of})
                rename_members(*list, before);
            both.signals.push_back(std::move(signal));
        }
    };
    add(first, first_name);
    add(second, second_name);
    check(both);
    return both;
}

template RigPair<2> hold_side_by_side<2>(const Level<2>&, const Rig<2>&, const Survey<2>&, const Rig<2>&,
                                         const Survey<2>&, const SurveyOptions&);
template RigPair<3> hold_side_by_side<3>(const Level<3>&, const Rig<3>&, const Survey<3>&, const Rig<3>&,
                                         const Survey<3>&, const SurveyOptions&);
template std::vector<ComparedPair<2>> compare_pairs<2>(const std::vector<const Rig<2>*>&,
                                                       const std::vector<LevelSurveys<2>>&);
template std::vector<ComparedPair<3>> compare_pairs<3>(const std::vector<const Rig<3>*>&,
                                                       const std::vector<LevelSurveys<3>>&);
template RigScore survey_score<2>(const Rig<2>&, std::size_t, const std::vector<LevelSurveys<2>>&);
template RigScore survey_score<3>(const Rig<3>&, std::size_t, const std::vector<LevelSurveys<3>>&);
template Rig<2> both_rigs<2>(const Rig<2>&, const std::string&, const Rig<2>&, const std::string&);
template Rig<3> both_rigs<3>(const Rig<3>&, const std::string&, const Rig<3>&, const std::string&);

}  // namespace hollow_probe
