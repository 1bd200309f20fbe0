#include "hollow_probe/rig/debug_lines.hpp"

#include "hollow_probe/geometry/hull_wire.hpp"

namespace hollow_probe {
namespace {

template <int D>
class Drawing {
  public:
    Drawing(std::vector<DebugLine<D>>& lines, int around) : lines_(lines), around_(around) {}

    void line(const Vec<D>& from, const Vec<D>& to, LinePart part) {
        lines_.push_back({from, to, part, probe, on});
    }
    void shape(const RoundedHull<D>& hull, const Vec<D>& at, LinePart part) {
        for_each_wire<D>(hull.view(), around_,
                         [&](const Vec<D>& a, const Vec<D>& b) { line(at + a, at + b, part); });
    }

    std::size_t probe = 0;
    bool on = false;

  private:
    std::vector<DebugLine<D>>& lines_;
    int around_;
};

/// Whether a hit lies on a probe's line.
template <int D>
bool is_on_line(const MountedProbe<D>& probe, std::size_t line, const Vec<D>& anchor,
                const Reading<D>& reading) {
    if (probe.lines.size() == 1) return true;
    // The shape, put where the line ends, has the point on its surface or nearly so.
    const Vec<D> end = anchor + probe.start(line, reading) + reading.hit.distance * probe.lines[line].along;
    const Bounds<D> box = probe.shape.bounds().moved(end).inflated(1e-6 * (1.0 + reading.hit.distance));
    Bounds<D> point;
    point.grow(reading.hit.point);
    return box.overlaps(point);
}

template <int D>
void draw_probe(const MountedProbe<D>& probe, const Vec<D>& anchor, const Reading<D>& reading,
                Drawing<D>& drawing) {
    bool told = !reading.met;
    for (std::size_t i = 0; i < probe.lines.size(); ++i) {
        const ProbeLine<D>& line = probe.lines[i];
        const Vec<D> start = anchor + probe.start(i, reading);
        if (probe.kind == ProbeKind::zone) {
            drawing.shape(probe.shape, start, LinePart::end_shape);
            continue;
        }
        const Vec<D> limit = start + probe.reach * line.along;
        const bool hit = !told && probe.is_line() && is_on_line<D>(probe, i, anchor, reading);
        told = told || hit;
        const Vec<D> end = hit ? start + reading.hit.distance * line.along : limit;
        drawing.line(start, end, LinePart::way);
        if (hit) drawing.line(end, limit, LinePart::beyond);
        if (probe.kind == ProbeKind::ray) continue;
        if (probe.kind == ProbeKind::cast) drawing.shape(probe.shape, start, LinePart::start_shape);
        drawing.shape(probe.shape, end, LinePart::end_shape);
    }
}

}  // namespace

template <int D>
void append_debug_lines(const MountedRig<D>& rig, const Vec<D>& anchor, std::span<const Reading<D>> readings,
                        std::vector<DebugLine<D>>& lines, int around) {
    Drawing<D> drawing(lines, std::max(around, 3));
    drawing.shape(rig.body, anchor, LinePart::body);
    const Bounds<D> box = rig.body.bounds();
    const double size = box.size().largest();
    const Vec<D> middle = anchor + box.center();
    drawing.line(middle, middle + 0.5 * size * rig.heading, LinePart::heading);
    for (std::size_t i = 0; i < rig.probes.size() && i < readings.size(); ++i) {
        const MountedProbe<D>& probe = rig.probes[i];
        if (!probe.mounted || !probe.aimed) continue;
        const Reading<D>& reading = readings[i];
        if (reading.unread) continue;
        drawing.probe = i;
        drawing.on = reading.on;
        if (probe.kind != ProbeKind::contact) draw_probe<D>(probe, anchor, reading, drawing);
        if (!reading.met) continue;
        const Vec<D>& point = reading.hit.point;
        drawing.line(point, point + 0.1 * size * reading.hit.normal, LinePart::normal);
    }
}

template void append_debug_lines<2>(const MountedRig<2>&, const Vec<2>&, std::span<const Reading<2>>,
                                    std::vector<DebugLine<2>>&, int);
template void append_debug_lines<3>(const MountedRig<3>&, const Vec<3>&, std::span<const Reading<3>>,
                                    std::vector<DebugLine<3>>&, int);

}  // namespace hollow_probe
