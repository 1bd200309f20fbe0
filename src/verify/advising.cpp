#include "verify/advising.hpp"

#include <algorithm>
#include <map>

#include "verify/best_amount.hpp"
#include "verify/cause_key.hpp"

namespace hollow_probe {
namespace {

/// So many causes are told of a finding.
constexpr std::size_t most_causes_reported = 4;
/// A change is tried at no more poses in a last round.
constexpr std::size_t most_readings = 40'000;
/// Findings whose own number is tried where the one that serves most does not serve them.
constexpr std::size_t most_own_numbers = 24;
/// A change of more than two keys makes another probe of it: that leads only where it does so much more than
/// what is left of the author's would.
constexpr double worth_of_another_probe = 0.5;
/// Gains this close to the best are as good: then the likeliest cause leads.
constexpr double as_good = 0.99;

template <int D>
class Advising {
  public:
    Advising(const Planned<D>& planned, const Samples<D>& samples, const std::vector<Wrong<D>>& wrongs,
             const std::vector<std::vector<std::size_t>>& members, std::size_t most_advised,
             Explained<D>& result)
        : s_(planned),
          wrongs_(wrongs),
          members_(members),
          most_advised_(most_advised),
          result_(result),
          trials_(planned, samples,
                  most_advised == all_findings ? most_readings : most_readings_before_last) {}

    void run() {
        for (std::size_t finding = 0; finding < members_.size(); ++finding) gather(finding);
        std::erase_if(by_key_, [&](const auto& of_key) {
            return of_key.second.demanded.begin()->first >= most_advised_;
        });
        for (auto& [key, of_key] : by_key_) {
            s_.stop_if_asked();
            try_everywhere(of_key);
        }
        s_.stop_if_asked();
        for (std::size_t finding = 0; finding < members_.size(); ++finding) report(finding);
        for (auto& [key, of_key] : by_key_) result_.candidates.push_back(std::move(of_key.candidate));
        result_.worth = worth_making<D>(trials_, result_.candidates);
    }

  private:
    /// A change, what its number must be at each finding, and how it did with one number for all.
    struct OfKey {
        std::map<std::size_t, ProvenCause<D>> demanded;  // by finding
        std::map<std::size_t, std::size_t> proven;       // at so many of its wrong verdicts
        Candidate<D> candidate;
        typename Trials<D>::Totals totals = {};
    };
    using Key = std::pair<std::size_t, std::size_t>;  // the signal, and the number of the key

    void gather(std::size_t finding) {
        std::vector<std::size_t>& poses = poses_.emplace_back();
        for (const std::size_t member : members_[finding]) {
            const Wrong<D>& wrong = wrongs_[member];
            poses.push_back(wrong.pose);
            for (std::size_t i = 0; i < wrong.causes.size(); ++i) {
                const ProvenCause<D>& cause = wrong.causes[i];
                if (std::holds_alternative<std::monostate>(cause.change)) continue;
                OfKey& of_key = by_key_[Key(wrong.signal, wrong.keys[i])];
                of_key.candidate.signal = wrong.signal;
                if (of_key.proven[finding]++ == 0) {
                    of_key.demanded[finding] = cause;
                } else {
                    take_more_demanding(of_key.demanded[finding], cause);
                }
            }
        }
        std::sort(poses.begin(), poses.end());
    }

    void try_everywhere(OfKey& of_key) {
        Candidate<D>& candidate = of_key.candidate;
        std::vector<ProvenCause<D>> demanded;
        for (const auto& [finding, cause] : of_key.demanded) demanded.push_back(cause);
        const Tuned<D> tuned = best_amount<D>(s_, trials_, std::move(demanded));
        candidate.cause = tuned.cause;
        candidate.outcome = trials_.outcome(candidate.cause);
        candidate.report = described(tuned);
        of_key.totals = trials_.totals_of(candidate.outcome);
        trials_.count(candidate.outcome, of_key.totals, candidate.signal, {}, 0, candidate.report);
        candidate.report.cures = candidate.report.cures_elsewhere;
        candidate.report.cures_elsewhere = 0;
        for (const auto& [finding, count] : of_key.proven) candidate.report.proven += count;
    }

    CauseReport described(const Tuned<D>& tuned) const {
        CauseReport report;
        describe<D>(s_.level, s_.rig, tuned.cause, report);
        report.between = tuned.between;
        return report;
    }

    struct Told {
        CauseReport report;
        double rank = 0.0;
        std::size_t proven = 0;
        const ProvenCause<D>* demanded = nullptr;
    };

    /// A finding's causes, with the number that serves most where it serves this one, too.
    void report(std::size_t number) {
        Finding<D>& finding = result_.findings[number];
        std::vector<Told> told;
        for (auto& [key, of_key] : by_key_) {
            const auto demanded = of_key.demanded.find(number);
            if (demanded == of_key.demanded.end()) continue;
            Candidate<D>& candidate = of_key.candidate;
            Told& one = told.emplace_back();
            one.rank = demanded->second.rank;
            one.demanded = &demanded->second;
            one.proven = of_key.proven[number];
            one.report = candidate.report;
            trials_.count(candidate.outcome, of_key.totals, finding.signal, poses_[number], finding.count,
                          one.report);
            if (one.report.cures > 0) candidate.findings.push_back(number);
            if (one.report.cures == finding.count) candidate.whole.push_back(number);
        }
        const bool is_served = std::any_of(told.begin(), told.end(), [&](const Told& one) {
            return value_of(one.report) > 0.0 && one.report.cures == finding.count;
        });
        for (Told& one : told) {
            if (one.report.cures < finding.count && own_numbers_ < most_own_numbers)
                with_own_number(*one.demanded, number, is_served, one.report);
            one.report.proven = one.proven;
            one.report.by = one.demanded->by;
        }
        if (told.empty()) {
            // Nothing was proven, or what was is no change (nothing is mounted), or it is not to be tried.
            CauseReport nothing;
            nothing.cause = wrongs_[members_[number].front()].causes.front().kind;
            finding.causes.push_back(nothing);
            return;
        }
        order(told);
        if (told.size() > most_causes_reported) told.resize(most_causes_reported);
        for (Told& one : told) finding.causes.push_back(std::move(one.report));
    }

    static void order(std::vector<Told>& told) {
        // The likeliest first, then what gains most, unless what leads gains as much.
        std::stable_sort(told.begin(), told.end(), [](const Told& a, const Told& b) {
            return std::pair(a.rank, b.proven) < std::pair(b.rank, a.proven);
        });
        // First those that are worth making and cure as much of the finding as any that is; of them what is
        // worth most, or as good as most; of these what spoils nothing.
        double most_cured = 0.0;
        for (const Told& one : told) {
            if (value_of(one.report) > 0.0) most_cured = std::max(most_cured, cured_by(one.report));
        }
        const auto serves = [&](const Told& one) {
            return value_of(one.report) > 0.0 && cured_by(one.report) >= 0.9 * most_cured;
        };
        const auto spoils = [](const Told& one) {
            return one.report.adds_missed + one.report.adds_false > 0;
        };
        double most = 0.0;
        for (const Told& one : told) {
            if (serves(one)) most = std::max(most, value_of(one.report));
        }
        if (most > 0.0) {
            std::stable_sort(told.begin(), told.end(), [&](const Told& a, const Told& b) {
                if (serves(a) != serves(b)) return serves(a);
                const bool leads_a = serves(a) && value_of(a.report) >= as_good * most;
                const bool leads_b = serves(b) && value_of(b.report) >= as_good * most;
                if (leads_a != leads_b) return leads_a;
                if (leads_a && spoils(a) != spoils(b)) return spoils(b);
                return !leads_a && value_of(a.report) > value_of(b.report);
            });
        }
    }

    /// What orders changes: those that are worth something first, then those that gain at all.
    static double value_of(const CauseReport& report) {
        const double part = is_another_probe(report) ? worth_of_another_probe : 1.0;
        if (report.worth() > 0.0) return part * report.worth();
        return report.gain > 0.0 ? 1e-6 * part * report.gain : report.worth();
    }
    /// How much of a finding a change cures, where many keys changed count less than one.
    static double cured_by(const CauseReport& report) {
        const double part = is_another_probe(report) ? worth_of_another_probe : 1.0;
        return part * static_cast<double>(report.cures);
    }
    static bool is_another_probe(const CauseReport& report) { return report.edits.size() > 2; }

    /// Where the finding's own number does more good it is told instead.
    void with_own_number(const ProvenCause<D>& demanded, std::size_t number, bool is_served,
                         CauseReport& report) {
        const Finding<D>& finding = result_.findings[number];
        const Tuned<D> own = as_demanded<D>(s_, demanded);
        CauseReport tried = described(own);
        if (tried.needs == report.needs) return;
        ++own_numbers_;
        const auto about = trials_.total(trials_.about(own.cause));
        const bool cures_more = report.gain <= 0.0;
        if ((is_served || report.gain > 0.0) && about.cured - about.spoiled < -finding.measure) {
            // As most do, it spoils far more than it cures: that is told from a few poses.
            trials_.count_about(own.cause, about, finding.signal, poses_[number], finding.count, tried);
        } else {
            const auto outcome = trials_.outcome(own.cause);
            trials_.count(outcome, trials_.totals_of(outcome), finding.signal, poses_[number], finding.count,
                          tried);
            if (tried.gain > report.gain) report = tried;
        }
        if (cures_more && tried.cures > report.cures) report = tried;
    }

    const Planned<D>& s_;
    const std::vector<Wrong<D>>& wrongs_;
    const std::vector<std::vector<std::size_t>>& members_;
    std::size_t most_advised_;
    Explained<D>& result_;
    Trials<D> trials_;
    std::vector<std::vector<std::size_t>> poses_;  // by finding
    std::map<Key, OfKey> by_key_;
    std::size_t own_numbers_ = 0;
};

}  // namespace

template <int D>
void advise(const Planned<D>& planned, const Samples<D>& samples, const std::vector<Wrong<D>>& wrongs,
            const std::vector<std::vector<std::size_t>>& members, std::size_t most_advised,
            Explained<D>& result) {
    Advising<D>(planned, samples, wrongs, members, most_advised, result).run();
}

template void advise<2>(const Planned<2>&, const Samples<2>&, const std::vector<Wrong<2>>&,
                        const std::vector<std::vector<std::size_t>>&, std::size_t, Explained<2>&);
template void advise<3>(const Planned<3>&, const Samples<3>&, const std::vector<Wrong<3>>&,
                        const std::vector<std::vector<std::size_t>>&, std::size_t, Explained<3>&);

}  // namespace hollow_probe
