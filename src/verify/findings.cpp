#include "verify/findings.hpp"

#include <algorithm>
#include <map>
#include <numeric>
#include <optional>
#include <tuple>
#include <unordered_map>

#include "geometry/together.hpp"
#include "verify/advising.hpp"
#include "verify/alternatives.hpp"
#include "verify/cause_bytes.hpp"
#include "verify/cause_key.hpp"
#include "verify/facings_alike.hpp"
#include "verify/found_work.hpp"
#include "verify/reached.hpp"
#include "verify/severity.hpp"
#include "verify/short_hash.hpp"
#include "verify/truth_store.hpp"

namespace hollow_probe {
namespace {

class DisjointSets {
  public:
    explicit DisjointSets(std::size_t count) : parent_(count) {
        std::iota(parent_.begin(), parent_.end(), std::size_t{0});
    }
    std::size_t find(std::size_t i) {
        while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
        return i;
    }
    void join(std::size_t a, std::size_t b) {
        a = find(a);
        b = find(b);
        parent_[std::max(a, b)] = std::min(a, b);
    }

  private:
    std::vector<std::size_t> parent_;
};

/// Numbers, alike for wrong poses that share signal, verdict, stance, solid and leading cause.
template <int D>
std::vector<std::size_t> kinds_of(const Planned<D>& s, const Samples<D>& samples,
                                  const std::vector<Wrong<D>>& wrongs) {
    std::map<std::tuple<std::size_t, Verdict, std::size_t, int, std::size_t>, std::size_t> numbers;
    std::vector<std::size_t> kinds;
    kinds.reserve(wrongs.size());
    for (const Wrong<D>& wrong : wrongs) {
        const SurveyPose<D>& pose = samples.poses[wrong.pose];
        const auto [found, is_new] =
            numbers.try_emplace({wrong.signal, pose.verdict(wrong.signal), s.facings[pose.facing].stance,
                                 wrong.solid, wrong.keys.front()},
                                numbers.size());
        kinds.push_back(found->second);
    }
    return kinds;
}

/// Joins wrong poses that share signal, verdict, stance, solid and leading cause and are no farther apart
/// than neighbours on the grid. Returns the members of each cluster, in order of their first pose.
template <int D>
std::vector<std::vector<std::size_t>> clusters_of(const Planned<D>& s, const Samples<D>& samples,
                                                  const std::vector<Wrong<D>>& wrongs) {
    // Where not all were kept, neighbours are farther apart.
    const auto kept_of = static_cast<double>(samples.wrong_step);
    const double across =
        std::max(1.01 * s.grid.spacing, 0.5 * s.narrowest_width) * (D == 2 ? kept_of : std::sqrt(kept_of));
    const double along_up = std::max({across, 4.0 * s.rig.intent.touch});
    const auto& axes = s.grid.axes;
    using Cell = std::array<std::int64_t, D>;
    const auto coordinates = [&](std::size_t i) {
        std::array<double, D> result{};
        const Vec<D>& anchor = samples.poses[wrongs[i].pose].anchor;
        result[0] = axes.up.dot(anchor) / along_up;
        for (std::size_t axis = 0; axis + 1 < D; ++axis)
            result[axis + 1] = axes.across[axis].dot(anchor) / across;
        return result;
    };
    const std::vector<std::size_t> kinds = kinds_of<D>(s, samples, wrongs);
    using Key = std::pair<std::size_t, Cell>;
    std::map<Key, std::vector<std::size_t>> cells;
    const auto cell_of = [&](std::size_t i) {
        Cell cell;
        const auto at = coordinates(i);
        for (std::size_t k = 0; k < D; ++k) cell[k] = static_cast<std::int64_t>(std::floor(at[k]));
        return cell;
    };
    for (std::size_t i = 0; i < wrongs.size(); ++i) cells[Key(kinds[i], cell_of(i))].push_back(i);
    DisjointSets sets(wrongs.size());
    const auto near = [&](std::size_t i, std::size_t k) {
        const auto a = coordinates(i);
        const auto b = coordinates(k);
        for (std::size_t axis = 0; axis < D; ++axis) {
            if (std::abs(a[axis] - b[axis]) > 1.0) return false;
        }
        return true;
    };
    for (const auto& [key, members] : cells) {
        // Within one cell everything is near everything.
        for (const std::size_t member : members) sets.join(members.front(), member);
        const Cell& cell = key.second;
        for (int step = 0; step < (D == 2 ? 9 : 27); ++step) {
            Cell other = cell;
            for (std::size_t axis = 0, rest = static_cast<std::size_t>(step); axis < D; ++axis, rest /= 3) {
                other[axis] += static_cast<std::int64_t>(rest % 3) - 1;
            }
            if (!(cell < other)) continue;
            Key neighbour = key;
            neighbour.second = other;
            const auto found = cells.find(neighbour);
            if (found == cells.end()) continue;
            for (const std::size_t a : members) {
                bool joined = false;
                for (const std::size_t b : found->second) {
                    if (near(a, b)) {
                        sets.join(a, b);
                        joined = true;
                        break;  // the other cell is one set already
                    }
                }
                if (joined) break;
            }
        }
    }
    // Neighbours on one surface belong together however steep it is.
    std::vector<std::size_t> first_of(samples.poses.size() + 1, 0);  // by pose: number of its wrong verdicts
    for (const Wrong<D>& wrong : wrongs) ++first_of[wrong.pose + 1];
    std::partial_sum(first_of.begin(), first_of.end(), first_of.begin());
    for (const auto& [a, b] : samples.links) {
        for (std::size_t i = first_of[a]; i < first_of[a + 1]; ++i) {
            for (std::size_t k = first_of[b]; k < first_of[b + 1]; ++k) {
                if (kinds[i] == kinds[k]) sets.join(i, k);
            }
        }
    }
    std::map<std::size_t, std::vector<std::size_t>> by_root;
    for (std::size_t i = 0; i < wrongs.size(); ++i) by_root[sets.find(i)].push_back(i);
    std::vector<std::vector<std::size_t>> clusters;
    clusters.reserve(by_root.size());
    for (auto& [root, members] : by_root) clusters.push_back(std::move(members));
    return clusters;
}

template <int D>
class Reporter {
  public:
    Reporter(const Planned<D>& planned, const Samples<D>& samples, const std::vector<Wrong<D>>& wrongs)
        : s_(planned), samples_(samples), wrongs_(wrongs), gravity_(planned, samples) {
        for (const BorderPoint<D>& border : samples.borders) borders_[border.pose].push_back(border.at);
    }

    Finding<D> report(const std::vector<std::size_t>& members) const {
        const Wrong<D>& first = wrongs_[members.front()];
        Finding<D> finding;
        finding.signal = first.signal;
        finding.verdict = samples_.poses[first.pose].verdict(first.signal);
        finding.stance = s_.facings[samples_.poses[first.pose].facing].stance;
        finding.count = members.size() * samples_.wrong_step;
        for (const std::size_t member : members) {
            const std::size_t pose = wrongs_[member].pose;
            const SurveyPose<D>& judged = samples_.poses[pose];
            finding.bounds.grow(judged.anchor - judged.down * s_.level.up());
            finding.bounds.grow(judged.anchor + judged.up * s_.level.up());
            finding.measure += judged.measure * static_cast<double>(samples_.wrong_step);
            const auto located = borders_.find(pose);
            if (located == borders_.end()) continue;
            for (const Vec<D>& at : located->second) finding.bounds.grow(at);
        }
        std::vector<std::size_t> poses;
        poses.reserve(members.size());
        for (const std::size_t member : members) poses.push_back(wrongs_[member].pose);
        finding.worst = gravity_.worst(poses, finding.signal, finding.severity);
        if (first.solid >= 0) finding.solid = s_.level.solids()[static_cast<std::size_t>(first.solid)].name;
        return finding;
    }

  private:
    const Planned<D>& s_;
    const Samples<D>& samples_;
    const std::vector<Wrong<D>>& wrongs_;
    Gravity<D> gravity_;
    std::map<std::size_t, std::vector<Vec<D>>> borders_;
};

/// What causes are looked for of, and found.
template <int D>
struct Asked {
    SurveyPose<D> pose;
    std::size_t signal = 0;
    Explanation<D> explanation = {};
};

/// Looks for two or three changes that together cure what no single one does: at some of the poses, and then
/// whether what was found there cures the others.
template <int D>
void combine_causes(const Planned<D>& s, Alternatives<D>& alternatives, std::vector<Asked<D>>& asked) {
    constexpr std::size_t most_searched = 512;
    constexpr std::size_t most_kinds = 16;
    std::vector<std::size_t> unexplained;
    for (std::size_t i = 0; i < asked.size(); ++i) {
        if (asked[i].explanation.causes.front().kind == CauseKind::unexplained) unexplained.push_back(i);
    }
    if (unexplained.empty()) return;
    const std::size_t step = (unexplained.size() + most_searched - 1) / most_searched;
    const std::size_t searched = (unexplained.size() + step - 1) / step;
    const auto found = made_together<std::optional<ProvenCause<D>>>(s.sharing, searched, [&](std::size_t i) {
        s.stop_if_asked();
        const Asked<D>& one = asked[unexplained[i * step]];
        return prove_combined<D>(alternatives, one.pose, one.signal);
    });
    std::map<std::pair<std::size_t, CauseKey>, ProvenCause<D>> kinds;
    for (std::size_t i = 0; i < found.size(); ++i) {
        if (!found[i]) continue;
        Asked<D>& one = asked[unexplained[i * step]];
        one.explanation.causes = {*found[i]};
        const auto key = std::pair(one.signal, key_of(*found[i]));
        const auto known = kinds.find(key);
        if (known != kinds.end()) {
            take_more_demanding(known->second, *found[i]);
        } else if (kinds.size() < most_kinds) {
            kinds.emplace(key, *found[i]);
        }
    }
    for_each_index(unexplained.size(), [&](std::size_t i) {
        Asked<D>& one = asked[unexplained[i]];
        if (one.explanation.causes.front().kind != CauseKind::unexplained) return;
        const bool missed = one.pose.verdict(one.signal) == Verdict::missed_contact;
        for (const auto& [key, cause] : kinds) {
            if (key.first != one.signal) continue;
            if (Alternative<D>(s, one.pose.facing, cause).signals_on(one.pose).has(one.signal) == missed) {
                one.explanation.causes = {cause};
                return;
            }
        }
    });
}

template <int D>
void turn_moves(const Mat<D>& turn, std::vector<ProvenCause<D>>& causes) {
    for (ProvenCause<D>& cause : causes) {
        if (auto* const move = std::get_if<MoveStart<D>>(&cause.change)) move->by = turn * move->by;
        turn_moves<D>(turn, cause.with);
    }
}

/// By what was asked: the numbers of the keys of its causes, in the order of all keys.
template <int D>
std::vector<std::vector<std::size_t>> numbers_of_keys(const std::vector<Asked<D>>& asked) {
    std::vector<std::vector<CauseKey>> keys(asked.size());
    for_each_index(asked.size(), [&](std::size_t i) {
        for (const ProvenCause<D>& cause : asked[i].explanation.causes) keys[i].push_back(key_of(cause));
    });
    std::map<CauseKey, std::size_t> numbers;
    for (const auto& of_one : keys) {
        for (const CauseKey& key : of_one) numbers.try_emplace(key);
    }
    std::size_t next = 0;
    for (auto& [key, number] : numbers) number = next++;
    std::vector<std::vector<std::size_t>> result(asked.size());
    for_each_index(asked.size(), [&](std::size_t i) {
        for (const CauseKey& key : keys[i]) result[i].push_back(numbers.at(key));
    });
    return result;
}

/// Looks for the causes of each wrong verdict; once for all headings that turn to one another.
template <int D>
void explain(const Planned<D>& s, const Samples<D>& samples, std::vector<Wrong<D>>& wrongs) {
    using Key = NumbersKey<D + 2>;  // where, at which facing, which
    std::unordered_map<Key, std::size_t, typename Key::Hash> known;
    std::vector<Asked<D>> asked;
    std::vector<std::size_t> numbers;  // by wrong verdict: of what was asked for it
    for (const Wrong<D>& wrong : wrongs) {
        SurveyPose<D> pose = samples.poses[wrong.pose];
        pose.facing = static_cast<std::uint16_t>(s.explaining[pose.facing]);
        Key key{};
        std::copy_n(pose.anchor.data(), D, key.numbers.begin());
        key.numbers[D] = pose.facing;
        key.numbers[D + 1] = static_cast<double>(wrong.signal);
        const auto [found, is_new] = known.try_emplace(key, asked.size());
        if (is_new) asked.push_back({pose, wrong.signal});
        numbers.push_back(found->second);
    }
    Alternatives<D> alternatives(s);
    auto explained = made_together<Explanation<D>>(s.sharing, asked.size(), [&](std::size_t i) {
        s.stop_if_asked();
        const Asked<D>& one = asked[i];
        const std::string* const part =
            s.found == nullptr ? nullptr : s.found->of(cause_key<D>(one.pose, one.signal));
        return part != nullptr ? from_bytes<Explanation<D>>(*part)
                               : prove_causes<D>(alternatives, one.pose, one.signal);
    });
    for (std::size_t i = 0; i < asked.size(); ++i) asked[i].explanation = std::move(explained[i]);
    combine_causes<D>(s, alternatives, asked);
    const std::vector<std::vector<std::size_t>> keys = numbers_of_keys<D>(asked);
    for_each_index(wrongs.size(), [&](std::size_t i) {
        const Asked<D>& of = asked[numbers[i]];
        wrongs[i].causes = of.explanation.causes;
        wrongs[i].keys = keys[numbers[i]];
        wrongs[i].solid = of.explanation.solid;
        const std::size_t facing = samples.poses[wrongs[i].pose].facing;
        if (facing != of.pose.facing)
            turn_moves<D>(turn_between<D>(s, of.pose.facing, facing), wrongs[i].causes);
    });
}

/// Ids from what a finding is about, not from where it stands in the list; a number tells apart those alike.
template <int D>
void name_findings(const Planned<D>& s, std::vector<Finding<D>>& findings) {
    std::vector<std::size_t> order(findings.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        const Vec<D>& x = findings[a].bounds.low;
        const Vec<D>& y = findings[b].bounds.low;
        return std::lexicographical_compare(x.data(), x.data() + D, y.data(), y.data() + D);
    });
    std::map<std::string, int> alike;
    for (const std::size_t index : order) {
        Finding<D>& finding = findings[index];
        const CauseReport& cause = finding.causes.front();
        std::string about = s.rig.signals[finding.signal].name + '|' + name_of(finding.verdict) + '|' +
                            name_of(cause.cause) + '|' + cause.probe + '|' + cause.parameter + '|' +
                            s.rig.body.stances[finding.stance].name + '|' + finding.solid;
        const int number = alike[about]++;
        about += '|' + std::to_string(number);
        finding.id = (finding.verdict == Verdict::missed_contact ? "m-" : "f-") + short_hash(about);
    }
}

}  // namespace

template <int D>
Explained<D> find_findings(const Planned<D>& planned, const Samples<D>& samples, std::size_t most_advised,
                           const std::function<void(double)>& progress) {
    std::vector<Wrong<D>> wrongs;
    for (std::size_t pose = 0; pose < samples.poses.size(); ++pose) {
        for (std::size_t signal = 0; signal < planned.rig.signals.size(); ++signal) {
            const Verdict verdict = samples.poses[pose].verdict(signal);
            if (verdict == Verdict::missed_contact || verdict == Verdict::false_contact) {
                wrongs.push_back({pose, signal});
            }
        }
    }
    explain<D>(planned, samples, wrongs);
    if (progress) progress(0.7);
    Explained<D> result;
    if (wrongs.empty()) return result;
    std::vector<std::vector<std::size_t>> clusters;
    std::optional<Reached<D>> reached;
    result.knows_reached = !planned.level.starts().empty() && !planned.region;
    const auto cluster = [&] { clusters = clusters_of<D>(planned, samples, wrongs); };
    const auto reach = [&] {
        if (result.knows_reached) reached.emplace(planned);
    };
    if (planned.sharing) {
        // Shared work is done in one order everywhere.
        cluster();
        reach();
    } else {
        do_both(cluster, reach);
    }
    Reporter<D> reporter(planned, samples, wrongs);
    result.findings.resize(clusters.size());
    const auto report = [&](std::size_t i) { result.findings[i] = reporter.report(clusters[i]); };
    if (planned.sharing) {
        for (std::size_t i = 0; i < clusters.size(); ++i) report(i);
    } else {
        for_each_index(clusters.size(), report);
    }
    if (reached) {
        for (std::size_t i = 0; i < clusters.size(); ++i) {
            result.findings[i].reached = std::any_of(
                clusters[i].begin(), clusters[i].end(),
                [&](std::size_t member) { return reached->is_reached(samples.poses[wrongs[member].pose]); });
        }
    }
    // The gravest of what the player can reach first; names are told from causes, which come later, so that
    // places decide between equals.
    std::vector<std::size_t> order(clusters.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        const auto harm = [&](std::size_t i) {
            const Finding<D>& finding = result.findings[i];
            return std::tuple(finding.reached, finding.measure, finding.count);
        };
        return harm(a) > harm(b);
    });
    std::vector<Finding<D>> sorted;
    std::vector<std::vector<std::size_t>> members;
    for (const std::size_t i : order) {
        sorted.push_back(std::move(result.findings[i]));
        members.push_back(std::move(clusters[i]));
    }
    result.findings = std::move(sorted);
    advise<D>(planned, samples, wrongs, members, most_advised, result);
    name_findings<D>(planned, result.findings);
    if (progress) progress(0.8);
    return result;
}

template Explained<2> find_findings<2>(const Planned<2>&, const Samples<2>&, std::size_t,
                                       const std::function<void(double)>&);
template Explained<3> find_findings<3>(const Planned<3>&, const Samples<3>&, std::size_t,
                                       const std::function<void(double)>&);

}  // namespace hollow_probe
