#include "hollow_probe/study/propose.hpp"

#include <algorithm>
#include <cmath>
#include <deque>
#include <map>

#include "hollow_probe/study/tune.hpp"
#include "study/families.hpp"
#include "study/left_wrong.hpp"

namespace hollow_probe {
namespace {

template <int D>
class Proposer {
  public:
    Proposer(const std::vector<const Level<D>*>& levels, const Rig<D>& bare, const ProposeOptions& options)
        : levels_(levels), bare_(bare), options_(options), survey_(options.survey) {
        bare_.probes.clear();
        bare_.signals.clear();
        bare_.reflexes.clear();
        survey_.explain = false;
        survey_.progress = {};
    }

    Proposal<D> run(std::vector<Claim> claims) {
        // What stands on ground comes after ground.
        std::stable_sort(claims.begin(), claims.end(),
                         [](Claim a, Claim b) { return (a == Claim::ground) > (b == Claim::ground); });
        claims.erase(std::unique(claims.begin(), claims.end()), claims.end());
        Proposal<D> proposal;
        proposal.rig = bare_;
        claim_count_ = claims.size();
        for (const Claim claim : claims) {
            const bool needs_ground = claim == Claim::drop;
            if (needs_ground && standing_.probes.empty()) choose_standing();
            ProposedClaim<D> proposed{claim, families_of<D>(bare_, claim, "standing"), {}};
            if (needs_ground) {
                for (TriedFamily<D>& family : proposed.families) lend_ground(family);
            }
            judge(proposed.families);
            choose(proposed);
            if (proposed.chosen) take(proposal.rig, proposed.families[*proposed.chosen]);
            if (claim == Claim::ground && proposed.chosen) standing_ = proposed.families[*proposed.chosen];
            proposal.claims.push_back(std::move(proposed));
            done_ = static_cast<double>(proposal.claims.size()) / static_cast<double>(claim_count_);
            tell(0.0);
        }
        if (proposal.rig.signals.empty()) return proposal;
        proposal.wrong = wrong_of(proposal.rig);
        proposal.wrong_lines = wrong_lines_of(proposal.rig);
        std::deque<KeptTruths<D>> kept;
        if (proposal.wrong.poses() > 0)
            proposal.left = left_wrong<D>(levels_, proposal.rig, options_.survey, kept);
        return proposal;
    }

  private:
    [[nodiscard]] Wrongness wrong_of(const Rig<D>& rig) const {
        Wrongness sum;
        for (const Level<D>* level : levels_) sum += survey<D>(*level, rig, survey_).wrong;
        return sum;
    }
    [[nodiscard]] std::size_t wrong_lines_of(const Rig<D>& rig) const {
        GaugeOptions options;
        options.threads = options_.survey.threads;
        const DataSheet<D> sheet = gauge<D>(rig, options);
        return static_cast<std::size_t>(
            std::count_if(sheet.rows.begin(), sheet.rows.end(),
                          [](const SheetRow& row) { return row.curves[row.worst].wrong() > 0.0; }));
    }

    /// The rig with one family alone.
    [[nodiscard]] Rig<D> alone(const TriedFamily<D>& family) const {
        Rig<D> rig = bare_;
        rig.probes = family.probes;
        rig.signals = family.signals;
        return rig;
    }

    /// Where one is right with the numbers of the intent, none is tuned; else the least wrong are.
    void judge(std::vector<TriedFamily<D>>& families) {
        constexpr std::size_t most_tuned = 2;
        std::vector<TriedFamily<D>*> by_measure;
        for (TriedFamily<D>& family : families) {
            family.wrong = wrong_of(alone(family));
            by_measure.push_back(&family);
            tell(0.5 / static_cast<double>(families.size()));
        }
        std::stable_sort(by_measure.begin(), by_measure.end(),
                         [](const TriedFamily<D>* a, const TriedFamily<D>* b) {
                             return a->wrong.whole() < b->wrong.whole();
                         });
        for (std::size_t i = 0; i < std::min(most_tuned, by_measure.size()); ++i) {
            if (by_measure.front()->right() || by_measure[i]->right()) break;
            tune_family(*by_measure[i]);
            tell(0.1);
        }
        for (TriedFamily<D>& family : families) {
            measure(family);
            tell(0.2 / static_cast<double>(families.size()));
        }
    }

    /// Adds to the part of a claim's work that is done.
    void tell(double part) {
        done_ += part / static_cast<double>(claim_count_);
        if (options_.progress) options_.progress(std::min(done_, 0.99));
    }

    void measure(TriedFamily<D>& family) const {
        const Rig<D> rig = alone(family);
        family.wrong_lines = wrong_lines_of(rig);
        for (const Level<D>* level : levels_) {
            Pose<D> pose;
            pose.anchor = level->starts().empty() ? level->bounds().center() : level->starts().front().at;
            pose.heading =
                level->starts().empty()
                    ? level_heading<D>(std::abs(level->up()[0]) < 0.9 ? Vec<D>::unit(0) : Vec<D>::unit(1),
                                       level->up())
                    : level->starts().front().heading;
            const SheetCost cost = cost_of<D>(rig, *level, pose);
            family.cost.casts = std::max(family.cost.casts, cost.casts);
            family.cost.overlaps = std::max(family.cost.overlaps, cost.overlaps);
            family.cost.pieces += cost.pieces;
        }
    }

    /// Frees those of a family's numbers that the causes of what it does wrong name. What is found by a
    /// coarser look counts as what a whole survey finds it to be.
    void tune_family(TriedFamily<D>& family) const {
        constexpr std::size_t most_poses = 20'000;
        TuneOptions<D> options;
        options.survey = survey_;
        options.survey.budget = std::min(survey_.budget.value_or(most_poses), most_poses);
        options.held_part = 0.0;
        options.most_tried = options_.most_tuned;
        options.free = named_numbers(family, options.survey);
        if (options.free.empty()) return;
        TriedFamily<D> other = family;
        other.probes = tune<D>(levels_, alone(family), options).rig.probes;
        other.wrong = wrong_of(alone(other));
        if (!other.wrong.better_than(family.wrong)) return;
        family = std::move(other);
        family.tuned = true;
    }

    [[nodiscard]] std::vector<FreeSetting> named_numbers(const TriedFamily<D>& family,
                                                         SurveyOptions explained) const {
        constexpr std::size_t most_named = 12;
        constexpr std::size_t most_free = 3;
        const std::vector<std::string> may_be = tunable<D>(family);
        explained.explain = true;
        explained.most_tried = 0;
        std::vector<FreeSetting> free;
        for (const Level<D>* level : levels_) {
            const Rig<D> rig = alone(family);
            const Survey<D> found = survey<D>(*level, rig, explained);
            for (FreeSetting& one : named_by_causes<D>(level->layers(), rig, found, most_named)) {
                const auto same = [&](const FreeSetting& other) { return other.path == one.path; };
                if (free.size() < most_free && std::none_of(free.begin(), free.end(), same) &&
                    std::find(may_be.begin(), may_be.end(), one.path) != may_be.end())
                    free.push_back(std::move(one));
            }
        }
        return free;
    }

    static double effort(const TriedFamily<D>& family) {
        return static_cast<double>(family.cost.casts + family.cost.overlaps);
    }

    void choose(ProposedClaim<D>& proposed) const {
        auto& families = proposed.families;
        // Measures that differ by rounding are alike.
        const auto measure = [](const TriedFamily<D>& one) {
            return one.right() ? 0.0 : std::max(one.wrong.whole(), 1e-9);
        };
        const auto order = [&](const TriedFamily<D>& one) {
            return std::array{measure(one), static_cast<double>(one.wrong_lines), effort(one),
                              static_cast<double>(one.cost.pieces)};
        };
        for (std::size_t i = 0; i < families.size(); ++i) {
            const auto mine = order(families[i]);
            families[i].in_front =
                std::none_of(families.begin(), families.end(), [&](const TriedFamily<D>& other) {
                    const auto its = order(other);
                    bool better = false;
                    for (std::size_t k = 0; k < mine.size(); ++k) {
                        if (its[k] > mine[k]) return false;
                        better = better || its[k] < mine[k];
                    }
                    return better;
                });
            if (!proposed.chosen || mine < order(families[*proposed.chosen])) proposed.chosen = i;
        }
    }

    /// A family for ground, for claims that hold on ground alone.
    void choose_standing() {
        ProposedClaim<D> ground{Claim::ground, families_of<D>(bare_, Claim::ground, ""), {}};
        judge(ground.families);
        choose(ground);
        standing_ = ground.families[*ground.chosen];
    }
    void lend_ground(TriedFamily<D>& family) const {
        Signal standing = standing_.signals.back();
        standing.name = "standing";
        standing.claims.reset();
        family.signals.insert(family.signals.begin(), standing);
        family.probes.insert(family.probes.end(), standing_.probes.begin(), standing_.probes.end());
    }

    /// Adds what the rig does not have yet.
    static void take(Rig<D>& rig, const TriedFamily<D>& family) {
        const auto add = [](auto& all, const auto& more) {
            for (const auto& one : more) {
                const auto same = [&](const auto& other) { return other.name == one.name; };
                if (std::none_of(all.begin(), all.end(), same)) all.push_back(one);
            }
        };
        add(rig.probes, family.probes);
        add(rig.signals, family.signals);
    }

    const std::vector<const Level<D>*>& levels_;
    Rig<D> bare_;
    const ProposeOptions& options_;
    SurveyOptions survey_;
    TriedFamily<D> standing_;
    std::size_t claim_count_ = 1;
    double done_ = 0.0;
};

}  // namespace

template <int D>
Proposal<D> propose(const std::vector<const Level<D>*>& levels, const Rig<D>& bare,
                    const std::vector<Claim>& claims, const ProposeOptions& options) {
    if (levels.empty()) throw InvalidInput("there is no level to propose a rig for");
    if (bare.body.stances.empty()) throw InvalidInput("the body has no stance");
    if (claims.empty()) throw InvalidInput("there is no claim to propose a rig for");
    check(bare.intent);
    return Proposer<D>(levels, bare, options).run(claims);
}

template Proposal<2> propose<2>(const std::vector<const Level<2>*>&, const Rig<2>&, const std::vector<Claim>&,
                                const ProposeOptions&);
template Proposal<3> propose<3>(const std::vector<const Level<3>*>&, const Rig<3>&, const std::vector<Claim>&,
                                const ProposeOptions&);

}  // namespace hollow_probe
