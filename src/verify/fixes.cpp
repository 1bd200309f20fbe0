#include "verify/fixes.hpp"

#include <algorithm>

#include "verify/cause_key.hpp"

namespace hollow_probe {
namespace {

/// A change is worth a line if it takes this part of what is wrong away.
constexpr double least_part = 0.01;
constexpr std::size_t most_fixes = 12;
/// Each change made together with another has to gain so much more.
constexpr double dearer_together = 0.25;

}  // namespace

Wrongness& Wrongness::operator+=(const Wrongness& more) {
    missed += more.missed;
    falsely += more.falsely;
    contact += more.contact;
    signalled += more.signalled;
    missed_poses += more.missed_poses;
    false_poses += more.false_poses;
    return *this;
}

bool Wrongness::better_than(const Wrongness& other) const {
    constexpr double part = 1e-6;
    if (whole() != other.whole() && std::max(whole(), other.whole()) > 0.0)
        return whole() < (1.0 - part) * other.whole();
    return poses() < other.poses();
}

Wrongness wrongness_of(const std::vector<SignalVerdicts>& signals) {
    Wrongness wrong;
    for (const SignalVerdicts& signal : signals) {
        if (!signal.claims) continue;
        wrong.missed += signal.of(Verdict::missed_contact);
        wrong.falsely += signal.of(Verdict::false_contact);
        wrong.contact += signal.of(Verdict::true_contact) + signal.of(Verdict::missed_contact);
        wrong.signalled += signal.of(Verdict::true_contact) + signal.of(Verdict::false_contact);
        wrong.missed_poses += signal.count(Verdict::missed_contact);
        wrong.false_poses += signal.count(Verdict::false_contact);
    }
    return wrong;
}

template <int D>
std::vector<std::size_t> worth_making(const Trials<D>& trials, const std::vector<Candidate<D>>& candidates) {
    std::vector<std::size_t> chosen;
    std::vector<const typename Trials<D>::Outcome*> made;
    double first_gain = 0.0;
    while (chosen.size() < most_fixes) {
        std::size_t best = candidates.size();
        double best_gain = 0.0;
        for (std::size_t i = 0; i < candidates.size(); ++i) {
            if (!candidates[i].report.helps()) continue;
            if (!candidates[i].report.can_be_written() && !is_to_level<D>(candidates[i].cause.change))
                continue;
            const bool excluded = std::any_of(chosen.begin(), chosen.end(), [&](std::size_t c) {
                return c == i ||
                       exclude_each_other<D>(candidates[c].cause.change, candidates[i].cause.change);
            });
            if (excluded) continue;
            // Of two ways to the same the simpler one.
            const std::size_t more =
                std::max(candidates[i].cause.with.size(), candidates[i].report.edits.size() / 3);
            const double several = 1.0 + dearer_together * static_cast<double>(more);
            const double gain = trials.worth_after(made, candidates[i].outcome) / several;
            // Of those that gain alike the likeliest.
            if (gain > 1.01 * best_gain || (gain > 0.99 * best_gain && best < candidates.size() &&
                                            candidates[i].cause.rank < candidates[best].cause.rank)) {
                best = i;
                best_gain = std::max(gain, best_gain);
            }
        }
        if (best == candidates.size() || best_gain <= 0.5 * least_part * first_gain) break;
        if (chosen.empty()) first_gain = best_gain;
        chosen.push_back(best);
        made.push_back(&candidates[best].outcome);
    }
    return chosen;
}

namespace {

/// Makes the list of fixes.
template <int D>
class Fixing {
  public:
    Fixing(const Planned<D>& planned, std::size_t most_tried,
           const std::function<Wrongness(const Rig<D>&)>& survey_anew, Survey<D>& result)
        : s_(planned), left_(most_tried), survey_anew_(survey_anew), result_(result) {}

    void run(const std::vector<Candidate<D>>& candidates, const std::vector<std::size_t>& worth) {
        for (const std::size_t number : worth) make(candidates[number]);
        order();
        for (Made& one : made_) {
            if (so_far_ && so_far_->poses() == 0) break;  // nothing is left
            take(one);
        }
        tell_findings();
        if (set_.size() > 1) result_.joint = JointFix{std::move(set_), *so_far_};
    }

  private:
    struct Made {
        const Candidate<D>* candidate;
        Fix<D> fix;
    };

    /// One fix, surveyed anew if there is time; none if that shows that it does not help.
    void make(const Candidate<D>& candidate) {
        const auto rig = with({&candidate});
        if (!rig && !is_to_level<D>(candidate.cause.change)) return;
        Fix<D> fix;
        fix.change = candidate.report;
        fix.findings = candidate.findings;
        fix.whole = candidate.whole.size();
        if (rig) {
            fix.after = tried(*rig);
            fix.apply = [cause = candidate.cause](const Rig<D>& given) {
                return with_change<D>(given, cause).value_or(given);
            };
        }
        if (fix.after && !is_worth(*fix.after, result_.wrong)) return;
        for (const std::size_t finding : fix.findings)
            fix.stances.push_back(result_.findings[finding].stance);
        std::sort(fix.stances.begin(), fix.stances.end());
        fix.stances.erase(std::unique(fix.stances.begin(), fix.stances.end()), fix.stances.end());
        made_.push_back({&candidate, std::move(fix)});
    }

    /// What mends something that the player can reach first; then by what came of it, those without a promise
    /// behind those with one.
    void order() {
        const auto is_reached = [&](const Made& one) {
            return std::any_of(one.fix.findings.begin(), one.fix.findings.end(),
                               [&](std::size_t finding) { return result_.findings[finding].reached; });
        };
        std::stable_sort(made_.begin(), made_.end(), [&](const Made& a, const Made& b) {
            if (is_reached(a) != is_reached(b)) return is_reached(a);
            if (a.fix.after.has_value() != b.fix.after.has_value()) return a.fix.after.has_value();
            return a.fix.after && a.fix.after->better_than(*b.fix.after);
        });
    }

    /// A line of the list, as long as it makes the rig less wrong than those before it do. What there was no
    /// time for stays, without a promise.
    void take(Made& one) {
        if (one.fix.after && together_.empty()) {
            together_.push_back(one.candidate);
            so_far_ = one.fix.after;
            set_.push_back(result_.fixes.size());
        } else if (one.fix.after && so_far_ && left_ > 0) {
            together_.push_back(one.candidate);
            const auto rig = with(together_);
            const auto after = rig ? tried(*rig) : std::nullopt;
            if (!after || !is_worth(*after, *so_far_)) {
                together_.pop_back();
                return;
            }
            so_far_ = after;
            set_.push_back(result_.fixes.size());
        }
        result_.fixes.push_back(std::move(one.fix));
        kept_.push_back(one.candidate);
    }

    /// What cures a finding wholly is told of it; only if nothing does, what cures a part.
    void tell_findings() {
        for (const bool wholly : {true, false}) {
            for (std::size_t i = 0; i < kept_.size(); ++i) {
                for (const std::size_t finding : wholly ? kept_[i]->whole : kept_[i]->findings) {
                    auto& told = result_.findings[finding].fixes;
                    const bool is_cured = std::any_of(told.begin(), told.end(), [&](std::size_t fix) {
                        const auto& whole = kept_[fix]->whole;
                        return std::find(whole.begin(), whole.end(), finding) != whole.end();
                    });
                    if (wholly || !is_cured) told.push_back(i);
                }
            }
        }
    }

    /// The rig with several changes made, one after the other; nothing if that makes no rig.
    std::optional<Rig<D>> with(const std::vector<const Candidate<D>*>& candidates) const {
        std::optional<Rig<D>> rig = s_.rig;
        for (const Candidate<D>* candidate : candidates) {
            rig = with_change<D>(*rig, candidate->cause);
            if (!rig) return std::nullopt;
        }
        try {
            check(*rig);
        } catch (const InvalidInput&) {
            return std::nullopt;
        }
        return rig;
    }

    /// How wrong a rig is; nothing if no more may be surveyed, or it cannot be.
    std::optional<Wrongness> tried(const Rig<D>& rig) {
        if (left_ == 0) return std::nullopt;
        --left_;
        try {
            return survey_anew_(rig);
        } catch (const InvalidInput&) {
            return std::nullopt;
        }
    }

    /// Whether a rig is so much less wrong than another that the change is worth making.
    [[nodiscard]] bool is_worth(const Wrongness& after, const Wrongness& before) const {
        return after.better_than(before) &&
               before.whole() - after.whole() >= least_part * result_.wrong.whole();
    }

    const Planned<D>& s_;
    std::size_t left_;
    const std::function<Wrongness(const Rig<D>&)>& survey_anew_;
    Survey<D>& result_;
    std::vector<Made> made_;
    std::vector<const Candidate<D>*> together_;
    std::optional<Wrongness> so_far_;
    std::vector<std::size_t> set_;
    std::vector<const Candidate<D>*> kept_;
};

}  // namespace

template <int D>
void find_fixes(const Planned<D>& planned, std::vector<Candidate<D>> candidates,
                const std::vector<std::size_t>& worth, std::size_t most_tried,
                const std::function<Wrongness(const Rig<D>&)>& survey_anew, Survey<D>& result) {
    Fixing<D>(planned, most_tried, survey_anew, result).run(candidates, worth);
}

template std::vector<std::size_t> worth_making<2>(const Trials<2>&, const std::vector<Candidate<2>>&);
template std::vector<std::size_t> worth_making<3>(const Trials<3>&, const std::vector<Candidate<3>>&);
template void find_fixes<2>(const Planned<2>&, std::vector<Candidate<2>>, const std::vector<std::size_t>&,
                            std::size_t, const std::function<Wrongness(const Rig<2>&)>&, Survey<2>&);
template void find_fixes<3>(const Planned<3>&, std::vector<Candidate<3>>, const std::vector<std::size_t>&,
                            std::size_t, const std::function<Wrongness(const Rig<3>&)>&, Survey<3>&);

}  // namespace hollow_probe
