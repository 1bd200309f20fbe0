// A change in the words of a rig file.
#include <algorithm>
#include <charconv>
#include <limits>

#include "hollow_probe/rig/differences.hpp"
#include "verify/amounts.hpp"
#include "verify/changes.hpp"
#include "verify/rig_change.hpp"

namespace hollow_probe {
namespace {

/// The members of a signal by the numbers of their lists.
const std::vector<Member>& list_of(const Signal& signal, std::size_t list) {
    return list == 0 ? signal.any : list == 1 ? signal.all : list == 2 ? signal.none : signal.at_least.of;
}

/// The member that has a condition, by the condition's number; nested ones included.
const Member* condition_member(const std::vector<Signal>& signals, std::size_t number, std::string& path) {
    std::size_t left = number;
    const Member* found = nullptr;
    const auto look = [&](const auto& self, const auto& group, const std::string& where) -> void {
        const std::array<const std::vector<Member>*, 4> lists = {&group.any, &group.all, &group.none,
                                                                 &group.at_least.of};
        static constexpr std::array names = {"any", "all", "none", "at_least.of"};
        for (std::size_t list = 0; list < lists.size() && found == nullptr; ++list) {
            for (std::size_t i = 0; i < lists[list]->size() && found == nullptr; ++i) {
                const Member& member = (*lists[list])[i];
                const std::string here = where + names[list] + "[" + std::to_string(i) + "]";
                if (member.name.empty()) {
                    self(self, member.group.front(), here + ".");
                } else if (member.has_condition() && left-- == 0) {
                    found = &member;
                    path = here;
                }
            }
        }
    };
    for (const Signal& signal : signals) {
        if (found == nullptr) look(look, signal, std::string());
    }
    return found;
}

/// Writes one change down.
template <int D>
class Describer {
  public:
    Describer(const Surveyed<D>& surveyed, const ProvenCause<D>& cause, std::size_t signal,
              CauseReport& report)
        : s_(surveyed), cause_(cause), signal_(surveyed.rig.signals[signal]), report_(report) {}

    void run() {
        report_.needs_number = std::numeric_limits<double>::quiet_NaN();
        if (cause_.probe >= 0) {
            of_probe(s_.rig.probes[static_cast<std::size_t>(cause_.probe)]);
        } else {
            of_signal();
        }
    }

  private:
    void words(const std::string& parameter, std::string now, std::string needs) {
        report_.parameter = parameter;
        report_.now = std::move(now);
        report_.needs = std::move(needs);
    }
    void number(const std::string& parameter, double now, double needs) {
        words(parameter, file_number(now), file_number(needs));
        report_.needs_number = needs;
    }
    void of_probe(const Probe<D>& probe) {
        report_.probe = probe.name;
        const Probe<D> cured = changed(probe, cause_, s_.level, s_.rig);
        switch (cause_.change) {
            case Change::reach:
                number(probe.reach_grounded          ? "reach.airborne"
                       : probe.reach_per_speed > 0.0 ? "reach.base"
                                                     : "reach",
                       probe.reach, cured.reach);
                break;
            case Change::reach_grounded:
                number("reach.grounded", *probe.reach_grounded, *cured.reach_grounded);
                break;
            case Change::from:
                words("from", vector_text<D>(probe.from), vector_text<D>(cured.from));
                break;
            case Change::aim: {
                static constexpr std::array names = {"forward", "drive", "velocity"};
                const bool fixed = probe.aim == Aim::fixed && probe.along != Vec<D>::Unit(0);
                words("along",
                      fixed ? vector_text<D>(probe.along) : names[static_cast<std::size_t>(probe.aim)],
                      names[static_cast<std::size_t>(cured.aim)]);
                break;
            }
            case Change::sees_more:
            case Change::sees_less:
                words("sees", list_text(probe.sees), list_text(cured.sees));
                break;
            case Change::faces_other: {
                const auto word = [](Faces faces) { return faces == Faces::both ? "both" : "front"; };
                words("faces", word(probe.faces), word(cured.faces));
                break;
            }
            case Change::mount: {
                std::vector<std::string> stances = probe.stances;
                stances.push_back(s_.rig.body.stances[static_cast<std::size_t>(cause_.detail)].name);
                words("stances", list_text(probe.stances), list_text(stances));
                break;
            }
            case Change::accept_most:
                number("accept.angle[1]", probe.accept_most_degrees, cured.accept_most_degrees);
                break;
            case Change::accept_least:
                number("accept.angle[0]", probe.accept_least_degrees, cured.accept_least_degrees);
                break;
            case Change::take_all:
                words("take", "first", "all");
                break;
            case Change::if_inside: {
                static constexpr std::array names = {"report", "ignore", "against"};
                words("if_inside", names[static_cast<std::size_t>(probe.if_inside)],
                      names[static_cast<std::size_t>(cured.if_inside)]);
                break;
            }
            case Change::start_back:
                words("from, reach", vector_text<D>(probe.from) + ", " + file_number(probe.reach),
                      vector_text<D>(cured.from) + ", " + file_number(cured.reach));
                break;
            case Change::role_both:
            case Change::role_none: {
                const Solid<D>& solid = s_.level.solids()[static_cast<std::size_t>(cause_.detail)];
                report_.probe.clear();
                words("role", quoted_text(name_of(solid.role)) + " of " + quoted_text(solid.name),
                      cause_.change == Change::role_both ? "\"both\"" : "neither: leave it out");
                break;
            }
            case Change::narrower:
                of_shape(probe, cured);
                break;
            case Change::lower_end:
                words("from, shape", vector_text<D>(probe.from) + ", " + shape_text<D>(*probe.shape),
                      vector_text<D>(cured.from) + ", " + shape_text<D>(*cured.shape));
                break;
            case Change::one_way: {
                static constexpr std::array names = {"as_body", "always", "never"};
                words("one_way", names[static_cast<std::size_t>(probe.one_way)],
                      names[static_cast<std::size_t>(cured.one_way)]);
                break;
            }
            case Change::ignore_body:
                words("ignores_body", "false", "true");
                break;
            case Change::keep_set:
                words("keeps", name_of(probe.keeps), "set");
                break;
            case Change::as_sole:
                words("kind", "ray", "cast");
                break;
            case Change::as_cast:
                words("kind", "shift", "cast: of the stance, along the same way");
                break;
            case Change::inset:
                number("inset", probe.inset, cured.inset);
                break;
            case Change::side_within:
                number("within", probe.side_within_degrees, cured.side_within_degrees);
                break;
            case Change::match_other:
                words("match", probe.match == Match::only ? "only" : "includes",
                      probe.match == Match::only ? "includes" : "only");
                break;
            default:
                break;
        }
    }

    void of_shape(const Probe<D>& probe, const Probe<D>& cured) {
        if (probe.shape->radius() > 0.0) {
            number("shape radius", probe.shape->radius(), cured.shape->radius());
        } else {
            number("shape width", probe.shape->bounds().size()[0], cured.shape->bounds().size()[0]);
        }
    }

    void of_signal() {
        switch (cause_.change) {
            case Change::drop_member: {
                const auto list = static_cast<std::size_t>(cause_.detail) / most_members;
                static constexpr std::array names = {"any", "all", "none"};
                const std::vector<Member>& members = list_of(signal_, list);
                std::vector<Member> left = members;
                left.erase(left.begin() + cause_.detail % static_cast<int>(most_members));
                words(names[list], list_text(members), list_text(left));
                break;
            }
            case Change::count:
                words("at_least.count", std::to_string(signal_.at_least.count),
                      std::to_string(cause_.detail));
                break;
            case Change::any_for_all: {
                std::vector<Member> any = signal_.any;
                any.insert(any.end(), signal_.all.begin(), signal_.all.end());
                words("all", list_text(signal_.all), "any = " + list_text(signal_.all));
                break;
            }
            case Change::all_for_any: {
                std::vector<Member> all = signal_.all;
                all.insert(all.end(), signal_.any.begin(), signal_.any.end());
                words("any", list_text(signal_.any), "all = " + list_text(signal_.any));
                break;
            }
            case Change::gate_by: {
                std::vector<Member> all = signal_.all;
                all.emplace_back(s_.rig.signals[static_cast<std::size_t>(cause_.detail)].name);
                words("all", list_text(signal_.all), list_text(all));
                break;
            }
            case Change::settle:
                number("settle", signal_.settle, cause_.amount);
                break;
            case Change::grace:
                number("grace", signal_.grace, cause_.amount);
                break;
            case Change::mute:
                number("mute_after.seconds", signal_.mute_after.seconds, cause_.amount);
                break;
            case Change::read_after:
                words("reads", "before_move", "after_move");
                break;
            default:
                of_condition();
                break;
        }
    }

    void of_condition() {
        std::string path;
        const Member* const member =
            condition_member(s_.rig.signals, static_cast<std::size_t>(cause_.detail), path);
        if (member == nullptr) return;
        report_.probe = member->name;
        switch (cause_.change) {
            case Change::condition_angle_most:
                number(path + ".angle[1]", (*member->angle_degrees)[1], cause_.amount);
                break;
            case Change::condition_angle_least:
                number(path + ".angle[0]", (*member->angle_degrees)[0], cause_.amount);
                break;
            case Change::condition_distance_most:
                number(path + ".distance[1]", (*member->distance)[1], cause_.amount);
                break;
            case Change::condition_distance_least:
                number(path + ".distance[0]", (*member->distance)[0], cause_.amount);
                break;
            case Change::condition_layers:
                words(path + ".layers", list_text(member->layers), "any");
                break;
            default:
                break;
        }
    }

    const Surveyed<D>& s_;
    const ProvenCause<D>& cause_;
    const Signal& signal_;
    CauseReport& report_;
};

}  // namespace

template <int D>
void describe(const Surveyed<D>& surveyed, const ProvenCause<D>& cause, std::size_t signal,
              CauseReport& report) {
    report.cause = cause.kind;
    report.by = cause.by;
    if (cause.change == Change::none) return;
    Describer<D>(surveyed, cause, signal, report).run();
    if (const auto rig = with_change<D>(surveyed.level, surveyed.rig, signal, cause))
        report.edits = differences<D>(surveyed.rig, *rig);
    for (const ProvenCause<D>& further : cause.with)
        describe<D>(surveyed, further, signal, report.with.emplace_back());
}

template void describe<2>(const Surveyed<2>&, const ProvenCause<2>&, std::size_t, CauseReport&);
template void describe<3>(const Surveyed<3>&, const ProvenCause<3>&, std::size_t, CauseReport&);

}  // namespace hollow_probe
