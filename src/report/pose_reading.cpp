#include "report/pose_reading.hpp"

#include <fmt/format.h>

#include <bit>

#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/rig/touched.hpp"

namespace hollow_probe {

template <int D>
PoseReading<D>::PoseReading(const Level<D>& of_level, const Rig<D>& of_rig, const Pose<D>& at)
    : level(of_level),
      rig(of_rig),
      pose(at),
      mounted(of_rig, of_level, at.stance, Situation<D>{at.heading, at.velocity, at.drive, at.grounded}),
      contacts(touched_by<D>(of_level, mounted, at.anchor, of_rig.intent.touch)),
      readings(mounted.probes.size()) {
    signals_on = mounted.evaluate(level, pose.anchor, readings, contacts);
}

template <int D>
void PoseReading<D>::say_as(const SurveyPose<D>& judged) {
    signals_on = judged.signals_on;
    for (std::size_t i = 0; i < readings.size(); ++i) readings[i].on = judged.probes_on.has(i);
}

template <int D>
std::optional<LevelHit<D>> PoseReading<D>::hit_of(std::size_t i, std::size_t line) const {
    const MountedProbe<D>& probe = mounted.probes[i];
    if (!probe.is_line()) return std::nullopt;
    if (probe.lines.size() == 1) return readings[i].met ? std::optional(readings[i].hit) : std::nullopt;
    return first_hit<D>(level, probe.cast(line, pose.anchor + readings[i].carried));
}

template <int D>
double PoseReading<D>::end_of(std::size_t i, std::size_t line) const {
    const MountedProbe<D>& probe = mounted.probes[i];
    if (probe.kind == ProbeKind::zone || probe.kind == ProbeKind::contact) return 0.0;
    const auto hit = hit_of(i, line);
    return hit ? hit->distance : probe.reach;
}

namespace {

/// What is a millionth of the body is rounding.
std::string length_words(double length, double body) {
    return plain(length < 1e-6 * body ? 0.0 : length);
}

}  // namespace

template <int D>
std::string PoseReading<D>::words(std::size_t i) const {
    const Probe<D>& probe = rig.probes[i];
    std::string text = fmt::format("{} ({}): ", probe.name, name_of(probe.kind()));
    const MountedProbe<D>& here = mounted.probes[i];
    if (!here.mounted) return text + "not mounted in this stance";
    if (!here.aimed) return text + "has no direction here";
    const double size = mounted.body.bounds().size().largest();
    const Reading<D>& reading = readings[i];
    if (reading.unread) return text + fmt::format("not read: {} is off", probe.follows);
    const bool rests = !here.is_line();
    if (!reading.met)
        return text + (here.kind == ProbeKind::contact ? std::string("touches nothing there")
                       : rests                         ? std::string("overlaps nothing")
                                                       : "hits nothing within " + plain(here.reach));
    const std::string solid = reading.own_body
                                  ? "the body itself"
                                  : '"' + level.solids()[level.solid_of(reading.hit.piece)].name + '"';
    const double angle = degrees(angle_between<D>(reading.hit.normal, level.up()));
    if (here.kind == ProbeKind::contact) {
        text += "touches " + solid;
    } else if (rests) {
        text += "overlaps " + solid + " by " + length_words(reading.hit.depth, size);
    } else {
        text += reading.hit.began_inside
                    ? "starts inside " + solid
                    : "hits " + solid + " after " + length_words(reading.hit.distance, size);
    }
    if (here.lines.size() > 1)
        text += fmt::format(" ({} of {} lines on)", std::popcount(reading.lines_on), here.lines.size());
    const char* const off = here.kind == ProbeKind::zone ? "off" : "refused";
    return text + fmt::format(", normal {}° from up: {}", plain(angle), reading.on ? "on" : off);
}

template struct PoseReading<2>;
template struct PoseReading<3>;

}  // namespace hollow_probe
