#include "verify/findings.hpp"

#include <algorithm>
#include <charconv>
#include <map>
#include <numeric>
#include <tuple>

#include "verify/causes.hpp"
#include "verify/parallel.hpp"

namespace hollow_probe {
namespace {

constexpr std::size_t most_causes_reported = 4;

template <int D>
struct Wrong {
    std::size_t pose = 0;
    std::size_t signal = 0;
    std::vector<ProvenCause<D>> causes;
};

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

/// What makes two causes the same cause.
template <int D>
auto kind_key(const ProvenCause<D>& cause) {
    return std::tuple(cause.kind, cause.change, cause.probe, cause.detail);
}

/// Joins wrong poses that share signal, verdict, stance and leading cause and are no farther apart than
/// neighbours on the grid. Returns the members of each cluster, in order of their first pose.
template <int D>
std::vector<std::vector<std::size_t>> clusters_of(const Surveyed<D>& s, const Samples<D>& samples,
                                                  const std::vector<Wrong<D>>& wrongs) {
    const double across = std::max(1.01 * s.grid.spacing, 0.5 * s.narrowest_width);
    const double along_up =
        std::max({across, 4.0 * s.rig.intent.touch, 1.01 * (s.heights[3] - s.heights[2])});
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
    using Key = std::tuple<std::size_t, Verdict, std::size_t, decltype(kind_key(wrongs[0].causes[0])), Cell>;
    std::map<Key, std::vector<std::size_t>> cells;
    const auto key_of = [&](std::size_t i, const Cell& cell) {
        const SurveyPose<D>& pose = samples.poses[wrongs[i].pose];
        return Key(wrongs[i].signal, pose.verdict(wrongs[i].signal), s.facings[pose.facing].stance,
                   kind_key(wrongs[i].causes.front()), cell);
    };
    const auto cell_of = [&](std::size_t i) {
        Cell cell;
        const auto at = coordinates(i);
        for (std::size_t k = 0; k < D; ++k) cell[k] = static_cast<std::int64_t>(std::floor(at[k]));
        return cell;
    };
    for (std::size_t i = 0; i < wrongs.size(); ++i) cells[key_of(i, cell_of(i))].push_back(i);
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
        const Cell& cell = std::get<4>(key);
        for (int step = 0; step < (D == 2 ? 9 : 27); ++step) {
            Cell other = cell;
            for (std::size_t axis = 0, rest = static_cast<std::size_t>(step); axis < D; ++axis, rest /= 3) {
                other[axis] += static_cast<std::int64_t>(rest % 3) - 1;
            }
            if (!(cell < other)) continue;
            Key neighbour = key;
            std::get<4>(neighbour) = other;
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
    std::map<std::pair<std::size_t, std::size_t>, std::size_t> wrong_of;
    for (std::size_t i = 0; i < wrongs.size(); ++i) wrong_of[{wrongs[i].pose, wrongs[i].signal}] = i;
    for (const auto& [a, b] : samples.links) {
        for (std::size_t signal = 0; signal < s.rig.signals.size(); ++signal) {
            const auto of_a = wrong_of.find({a, signal});
            const auto of_b = wrong_of.find({b, signal});
            if (of_a == wrong_of.end() || of_b == wrong_of.end()) continue;
            if (key_of(of_a->second, Cell{}) == key_of(of_b->second, Cell{}))
                sets.join(of_a->second, of_b->second);
        }
    }
    std::map<std::size_t, std::vector<std::size_t>> by_root;
    for (std::size_t i = 0; i < wrongs.size(); ++i) by_root[sets.find(i)].push_back(i);
    std::vector<std::vector<std::size_t>> clusters;
    clusters.reserve(by_root.size());
    for (auto& [root, members] : by_root) clusters.push_back(std::move(members));
    return clusters;
}

/// A number as a person would write it in a rig file: the shortest that is right to about 1e-9.
std::string file_number(double x) {
    std::array<char, 400> text{};  // a double may have 309 digits before the point
    const auto end =
        std::to_chars(text.data(), text.data() + text.size(), x, std::chars_format::fixed, 9).ptr;
    std::string result(text.data(), end);
    while (result.back() == '0') result.pop_back();
    if (result.back() == '.') result += '0';
    return result == "-0.0" ? "0.0" : result;
}

std::string list_text(const std::vector<std::string>& names) {
    std::string text = "[";
    for (const std::string& name : names) text += (text.size() > 1 ? ", \"" : "\"") + name + '"';
    return text + "]";
}

template <int D>
std::string vector_text(const Vec<D>& v) {
    std::string text = "[";
    for (int axis = 0; axis < D; ++axis) text += (axis > 0 ? ", " : "") + file_number(v[axis]);
    return text + "]";
}

/// Fills parameter, now and needs as the rig file would have them.
template <int D>
void describe(const Surveyed<D>& s, const ProvenCause<D>& cause, std::size_t signal, CauseReport& report) {
    report.needs_number = std::numeric_limits<double>::quiet_NaN();
    const auto number = [&](const char* parameter, double now, double needs) {
        report.parameter = parameter;
        report.now = file_number(now);
        report.needs = file_number(needs);
        report.needs_number = needs;
    };
    const auto words = [&](const char* parameter, std::string now, std::string needs) {
        report.parameter = parameter;
        report.now = std::move(now);
        report.needs = std::move(needs);
    };
    const Signal& combined = s.rig.signals[signal];
    if (cause.probe < 0) {
        const auto without = [&](std::vector<std::string> names) {
            std::erase(names, s.rig.probes[static_cast<std::size_t>(cause.detail)].name);
            return list_text(names);
        };
        switch (cause.change) {
            case Change::drop_member: {
                const std::string& name = s.rig.probes[static_cast<std::size_t>(cause.detail)].name;
                const bool in_all =
                    std::find(combined.all.begin(), combined.all.end(), name) != combined.all.end();
                const auto& group = in_all ? combined.all : combined.none;
                words(in_all ? "all" : "none", list_text(group), without(group));
                break;
            }
            case Change::count:
                words("at_least.count", std::to_string(combined.at_least.count),
                      std::to_string(cause.detail));
                break;
            case Change::any_for_all:
                words("all", list_text(combined.all), "any = " + list_text(combined.all));
                break;
            case Change::all_for_any:
                words("any", list_text(combined.any), "all = " + list_text(combined.any));
                break;
            default:
                break;
        }
        return;
    }
    const Probe<D>& probe = s.rig.probes[static_cast<std::size_t>(cause.probe)];
    report.probe = probe.name;
    const Probe<D> cured = changed(probe, cause, s.level);
    switch (cause.change) {
        case Change::reach:
            number("reach", probe.reach, cured.reach);
            break;
        case Change::from:
            words("from", vector_text<D>(probe.from), vector_text<D>(cured.from));
            break;
        case Change::sees_more:
        case Change::sees_less:
            words("sees", list_text(probe.sees), list_text(cured.sees));
            break;
        case Change::accept_most:
            number("accept.angle[1]", probe.accept_most_degrees, cured.accept_most_degrees);
            break;
        case Change::accept_least:
            number("accept.angle[0]", probe.accept_least_degrees, cured.accept_least_degrees);
            break;
        case Change::take_all:
            words("take", "first", "all");
            break;
        case Change::inside_other: {
            const bool reports = probe.if_inside == IfInside::report;
            words("if_inside", reports ? "report" : "ignore", reports ? "ignore" : "report");
            break;
        }
        case Change::start_back:
            words("from, reach", vector_text<D>(probe.from) + ", " + file_number(probe.reach),
                  vector_text<D>(cured.from) + ", " + file_number(cured.reach));
            break;
        case Change::role_both:
        case Change::role_none: {
            const Solid<D>& solid = s.level.solids()[static_cast<std::size_t>(cause.detail)];
            report.probe.clear();
            words("role", "\"" + std::string(name_of(solid.role)) + "\" of \"" + solid.name + "\"",
                  cause.change == Change::role_both ? "\"both\"" : "neither: leave it out");
            break;
        }
        case Change::narrower:
            if (probe.shape->radius() > 0.0) {
                number("shape radius", probe.shape->radius(), cured.shape->radius());
            } else {
                number("shape width", probe.shape->bounds().size()[0], cured.shape->bounds().size()[0]);
            }
            break;
        default:
            break;
    }
}

/// Of the causes of one kind proven in a cluster, the one whose change is large enough for all of them.
template <int D>
bool demands_more(const ProvenCause<D>& a, const ProvenCause<D>& b) {
    return a.by > b.by;
}

std::string short_hash(const std::string& text) {
    std::uint64_t hash = 0xcbf29ce484222325U;  // G. Fowler, L. C. Noll, K.-P. Vo, 1991
    for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3U;
    constexpr char digits[] = "0123456789abcdef";
    std::string result;
    for (int i = 0; i < 5; ++i, hash >>= 4U) result += digits[hash & 15U];
    return result;
}

template <int D>
class Reporter {
  public:
    Reporter(const Surveyed<D>& surveyed, const Samples<D>& samples, std::vector<Wrong<D>> wrongs)
        : s_(surveyed), samples_(samples), wrongs_(std::move(wrongs)) {
        for (const BorderPoint<D>& border : samples.borders) borders_[border.pose].push_back(border.at);
    }

    Finding<D> report(const std::vector<std::size_t>& members) const {
        const Wrong<D>& first = wrongs_[members.front()];
        Finding<D> finding;
        finding.signal = first.signal;
        finding.verdict = samples_.poses[first.pose].verdict(first.signal);
        finding.stance = s_.facings[samples_.poses[first.pose].facing].stance;
        finding.count = members.size();
        for (const std::size_t member : members) {
            const std::size_t pose = wrongs_[member].pose;
            finding.bounds.grow(samples_.poses[pose].anchor);
            if (!samples_.poses[pose].border) ++finding.grid_count;
            const auto located = borders_.find(pose);
            if (located == borders_.end()) continue;
            for (const Vec<D>& at : located->second) finding.bounds.grow(at);
        }
        finding.worst = samples_.poses[wrongs_[worst_of(members, finding.verdict)].pose];
        finding.solid = solid_at(finding);
        finding.causes = causes_of(members, finding);
        return finding;
    }

  private:
    /// The wrong pose farthest from right: the largest change needed, or the falsest contact highest in the
    /// air.
    std::size_t worst_of(const std::vector<std::size_t>& members, Verdict verdict) const {
        std::size_t worst = members.front();
        const auto badness = [&](std::size_t member) {
            const ProvenCause<D>& cause = wrongs_[member].causes.front();
            const SurveyPose<D>& pose = samples_.poses[wrongs_[member].pose];
            const bool in_air = verdict == Verdict::false_contact && cause.kind == CauseKind::reach_long;
            return in_air ? pose.above_rest : cause.by;
        };
        for (const std::size_t member : members) {
            if (badness(member) > badness(worst) + 1e-9 * s_.body_size) worst = member;
        }
        return worst;
    }

    /// Missed: the solid really stood on. False: the one the first probe that is on hit.
    std::string solid_at(const Finding<D>& finding) const {
        const MountedRig<D>& mounted = s_.mounted[finding.worst.facing];
        if (finding.verdict == Verdict::missed_contact) {
            const auto truth = answer<D>(
                s_.rig.signals[finding.signal].claims, s_.level,
                s_.question(finding.worst.facing, finding.signal, finding.worst.anchor), s_.rig.intent);
            if (truth.piece) return s_.level.solids()[s_.level.solid_of(*truth.piece)].name;
            return {};
        }
        const MountedSignal& signal = mounted.signals[finding.signal];
        for (std::size_t i = 0; i < mounted.probes.size(); ++i) {
            if ((finding.worst.probes_on & (signal.members() & ~signal.none) & std::uint64_t{1} << i) == 0)
                continue;
            const Reading<D> reading = mounted.probes[i].read(s_.level, finding.worst.anchor);
            if (!reading.met) continue;
            return s_.level.solids()[s_.level.solid_of(reading.hit.piece)].name;
        }
        return {};
    }

    std::vector<CauseReport> causes_of(const std::vector<std::size_t>& members,
                                       const Finding<D>& finding) const {
        using Key = decltype(kind_key(wrongs_[0].causes[0]));
        struct Gathered {
            ProvenCause<D> demanding;
            std::size_t proven = 0;
        };
        std::map<Key, Gathered> gathered;
        for (const std::size_t member : members) {
            for (const ProvenCause<D>& cause : wrongs_[member].causes) {
                auto& of_kind = gathered[kind_key(cause)];
                if (of_kind.proven++ == 0 || demands_more(cause, of_kind.demanding))
                    of_kind.demanding = cause;
            }
        }
        const Key leading = kind_key(wrongs_[members.front()].causes.front());
        std::vector<std::pair<Key, Gathered>> ordered(gathered.begin(), gathered.end());
        std::stable_sort(ordered.begin(), ordered.end(), [&](const auto& a, const auto& b) {
            if ((a.first == leading) != (b.first == leading)) return a.first == leading;
            return std::pair(b.second.proven, a.second.demanding.rank) <
                   std::pair(a.second.proven, b.second.demanding.rank);
        });
        if (ordered.size() > most_causes_reported) ordered.resize(most_causes_reported);
        std::vector<bool> mine(samples_.poses.size(), false);
        for (const std::size_t member : members) mine[wrongs_[member].pose] = true;
        std::vector<CauseReport> reports;
        for (const auto& [key, of_kind] : ordered) {
            CauseReport report;
            report.cause = of_kind.demanding.kind;
            report.by = of_kind.demanding.by;
            report.proven = of_kind.proven;
            if (report.cause != CauseKind::unexplained) {
                describe(s_, of_kind.demanding, finding.signal, report);
                try_cure(of_kind.demanding, finding.signal, mine, report);
            }
            reports.push_back(report);
        }
        return reports;
    }

    void try_cure(const ProvenCause<D>& cause, std::size_t signal, const std::vector<bool>& mine,
                  CauseReport& report) const {
        const Trial<D> trial(s_, cause, signal);
        std::vector<std::uint8_t> on(samples_.poses.size());
        for_each_index(on.size(), [&](std::size_t i) { on[i] = trial.signal_on(samples_.poses[i]); });
        for (std::size_t i = 0; i < on.size(); ++i) {
            SurveyPose<D> after = samples_.poses[i];
            const std::uint64_t bit = std::uint64_t{1} << signal;
            after.signals_on = on[i] != 0 ? after.signals_on | bit : after.signals_on & ~bit;
            const auto wrong = [](Verdict v) {
                return v == Verdict::missed_contact || v == Verdict::false_contact;
            };
            const Verdict was = samples_.poses[i].verdict(signal);
            const Verdict is = after.verdict(signal);
            if (wrong(was) && !wrong(is)) ++(mine[i] ? report.cures : report.cures_elsewhere);
            if (!wrong(was) && wrong(is))
                ++(is == Verdict::missed_contact ? report.adds_missed : report.adds_false);
        }
    }

    const Surveyed<D>& s_;
    const Samples<D>& samples_;
    std::vector<Wrong<D>> wrongs_;
    std::map<std::size_t, std::vector<Vec<D>>> borders_;
};

/// Ids from what a finding is about, not from where it stands in the list; a number tells apart those alike.
template <int D>
void name_findings(const Surveyed<D>& s, std::vector<Finding<D>>& findings) {
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
std::vector<Finding<D>> find_findings(const Surveyed<D>& surveyed, const Samples<D>& samples,
                                      const std::function<void(double)>& progress) {
    std::vector<Wrong<D>> wrongs;
    for (std::size_t pose = 0; pose < samples.poses.size(); ++pose) {
        for (std::size_t signal = 0; signal < surveyed.rig.signals.size(); ++signal) {
            const Verdict verdict = samples.poses[pose].verdict(signal);
            if (verdict == Verdict::missed_contact || verdict == Verdict::false_contact) {
                wrongs.push_back({pose, signal, {}});
            }
        }
    }
    for_each_index(wrongs.size(), [&](std::size_t i) {
        wrongs[i].causes = prove_causes<D>(surveyed, samples.poses[wrongs[i].pose], wrongs[i].signal);
    });
    if (progress) progress(0.8);
    std::vector<Finding<D>> findings;
    if (wrongs.empty()) return findings;
    const auto clusters = clusters_of<D>(surveyed, samples, wrongs);
    const Reporter<D> reporter(surveyed, samples, std::move(wrongs));
    for (const auto& members : clusters) {
        findings.push_back(reporter.report(members));
        if (progress)
            progress(0.8 + 0.2 * static_cast<double>(findings.size()) / static_cast<double>(clusters.size()));
    }
    name_findings<D>(surveyed, findings);
    std::stable_sort(findings.begin(), findings.end(), [](const Finding<D>& a, const Finding<D>& b) {
        const auto harm = [](const Finding<D>& f) { return std::pair(f.grid_count, f.count); };
        return harm(a) != harm(b) ? harm(a) > harm(b) : a.id < b.id;
    });
    return findings;
}

template std::vector<Finding<2>> find_findings<2>(const Surveyed<2>&, const Samples<2>&,
                                                  const std::function<void(double)>&);
template std::vector<Finding<3>> find_findings<3>(const Surveyed<3>&, const Samples<3>&,
                                                  const std::function<void(double)>&);

}  // namespace hollow_probe
