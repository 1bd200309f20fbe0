#include "hollow_probe/io/save_pose.hpp"

#include "hollow_probe/rig/debug_lines.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "io/gltf_writer.hpp"
#include "io/hull_surface.hpp"

namespace hollow_probe {
namespace {

constexpr int facets_around = 24;
using Paint = std::array<float, 4>;
constexpr Paint body_paint = {0.10F, 0.14F, 0.22F, 0.35F};
constexpr Paint probe_paint = {0.0F, 0.447F, 0.698F, 0.35F};

Paint opaque(Paint color) {
    color[3] = 1.0F;
    return color;
}

template <int D>
Vec<3> in_space(const Vec<D>& p) {
    Vec<3> result = Vec<3>::zero();
    for (int axis = 0; axis < D; ++axis) result[axis] = p[axis];
    return result;
}

template <int D>
void add_shape(GltfPart& part, const RoundedHull<D>& hull, const Vec<D>& at) {
    const TriangleMesh mesh = hull_surface<D>(hull.view(), false, facets_around);
    const auto base = static_cast<std::uint32_t>(part.vertices.size());
    for (const Vec<3>& p : mesh.vertices) part.vertices.push_back(p + in_space<D>(at));
    for (const auto& triangle : mesh.triangles) {
        for (const std::uint32_t corner : triangle) part.indices.push_back(base + corner);
    }
}

template <int D>
void add_line(GltfPart& part, const DebugLine<D>& line) {
    for (const Vec<D>& end : {line.from, line.to}) {
        part.indices.push_back(static_cast<std::uint32_t>(part.vertices.size()));
        part.vertices.push_back(in_space<D>(end));
    }
}

}  // namespace

template <int D>
std::string saved_pose(const Level<D>& level, const Rig<D>& rig, const Pose<D>& pose,
                       const std::string& file_name) {
    const bool binary = file_name.ends_with(".glb");
    if (!binary && !file_name.ends_with(".gltf"))
        throw InvalidInput("'" + file_name + "' must end in .glb or .gltf");
    const MountedRig<D> mounted(rig, level, pose.stance,
                                Situation<D>{pose.heading, pose.velocity, pose.drive, pose.grounded});
    std::vector<Reading<D>> readings(mounted.probes.size());
    const auto contacts = touched_by<D>(level, mounted, pose.anchor, rig.intent.touch);
    mounted.evaluate(level, pose.anchor, readings, contacts);
    std::vector<DebugLine<D>> lines;
    append_debug_lines<D>(mounted, pose.anchor, readings, lines, facets_around);

    std::vector<GltfPart> parts(2);
    parts[0].name = "body";
    parts[0].color = body_paint;
    add_shape<D>(parts[0], mounted.body, pose.anchor);
    parts[1].name = "body lines";
    parts[1].color = opaque(body_paint);
    parts[1].lines = true;
    for (std::size_t i = 0; i < mounted.probes.size(); ++i) {
        const MountedProbe<D>& probe = mounted.probes[i];
        GltfPart shapes{rig.probes[i].name};
        shapes.color = probe_paint;
        shapes.on = readings[i].on;
        GltfPart strokes{rig.probes[i].name + " lines"};
        strokes.color = opaque(probe_paint);
        strokes.lines = true;
        strokes.on = readings[i].on;
        if (probe.mounted && probe.aimed && !readings[i].unread && probe.kind != ProbeKind::ray &&
            probe.kind != ProbeKind::contact) {
            const bool hit = probe.is_line() && readings[i].met && probe.lines.size() == 1;
            for (std::size_t line = 0; line < probe.lines.size(); ++line) {
                double way = probe.kind == ProbeKind::zone ? 0.0 : probe.reach;
                if (hit) way = readings[i].hit.distance;
                add_shape<D>(shapes, probe.shape,
                             pose.anchor + probe.start(line, readings[i]) + way * probe.lines[line].along);
            }
        }
        parts.push_back(std::move(shapes));
        parts.push_back(std::move(strokes));
    }
    for (const DebugLine<D>& line : lines) {
        const bool of_body = line.part == LinePart::body || line.part == LinePart::heading;
        add_line<D>(parts[of_body ? 1 : 3 + 2 * line.probe], line);
    }
    return gltf_file(parts, binary);
}

template std::string saved_pose<2>(const Level<2>&, const Rig<2>&, const Pose<2>&, const std::string&);
template std::string saved_pose<3>(const Level<3>&, const Rig<3>&, const Pose<3>&, const std::string&);

}  // namespace hollow_probe
