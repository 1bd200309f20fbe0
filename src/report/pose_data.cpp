#include "report/pose_data.hpp"

#include <algorithm>

#include "report/page_shapes.hpp"

namespace hollow_probe {
namespace {

template <int D>
class PoseData {
  public:
    explicit PoseData(const PoseReading<D>& reading) : reading_(reading) {
        const HullView<D> body = reading.mounted.body.view();
        around_.grow(bounds_of(body).moved(reading.pose.anchor));
        size_ = around_.size().largest();
        json_ = {{"anchor", numbers_of<D>(reading.pose.anchor)},
                 {"heading", numbers_of<D>(reading.pose.heading)},
                 {"size", size_},
                 {"body", shape_data<D>(body)},
                 {"probes", Json::array()}};
        for (std::size_t i = 0; i < reading.mounted.probes.size(); ++i) add_probe(i);
        json_["around"] = Json::array({numbers_of<D>(around_.low), numbers_of<D>(around_.high)});
    }

    [[nodiscard]] Json take() { return std::move(json_); }

  private:
    void add_probe(std::size_t i) {
        const MountedProbe<D>& probe = reading_.mounted.probes[i];
        Json one = {{"name", reading_.rig.probes[i].name},
                    {"words", reading_.words(i)},
                    {"on", reading_.readings[i].on},
                    {"numbered", true},
                    {"place", 0},
                    {"shape", nullptr},
                    {"lines", Json::array()}};
        if (reading_.is_read(i)) {
            if (probe.kind == ProbeKind::contact) {
                add_contact(i, one);
            } else {
                if (probe.kind != ProbeKind::ray) one["shape"] = shape_data<D>(probe.shape.view());
                for (std::size_t line = 0; line < probe.lines.size(); ++line) add_line(i, line, one);
            }
        }
        json_["probes"].push_back(std::move(one));
    }

    void add_contact(std::size_t i, Json& one) const {
        const Reading<D>& reading = reading_.readings[i];
        if (!reading.met) return;
        const Json at = numbers_of<D>(reading.hit.point);
        one["lines"].push_back(
            {{"from", at}, {"to", at}, {"limit", at}, {"hit", hit_data(reading.hit, reading.on)}});
    }

    void add_line(std::size_t i, std::size_t line, Json& one) {
        const MountedProbe<D>& probe = reading_.mounted.probes[i];
        const Vec<D> start = reading_.start_of(i, line);
        // Of a zone's direction nothing is seen.
        const double reach = probe.kind == ProbeKind::zone ? 0.0 : probe.reach;
        const Vec<D> limit = start + reach * probe.lines[line].along;
        const Vec<D> end = start + reading_.end_of(i, line) * probe.lines[line].along;
        auto hit = reading_.hit_of(i, line);
        if (!probe.is_line() && reading_.readings[i].met) hit = reading_.readings[i].hit;
        one["lines"].push_back({{"from", numbers_of<D>(start)},
                                {"to", numbers_of<D>(end)},
                                {"limit", numbers_of<D>(limit)},
                                {"hit", hit ? hit_data(*hit, reading_.line_on(i, line)) : Json(nullptr)}});
        const Bounds<D> shape = probe.shape.bounds();
        around_.grow(shape.moved(start));
        // Long rays do not shrink the body away.
        const double shown = std::min((end - start).norm(), 1.5 * size_);
        around_.grow(shape.moved(start + shown * probe.lines[line].along));
        if (line > 0) return;
        // Probes that start at one place share a line of numbers.
        int place = 0;
        for (const Vec<D>& other : starts_) place += (other - start).norm() < 0.08 * size_ ? 1 : 0;
        starts_.push_back(start);
        one["place"] = place;
    }

    static Json hit_data(const LevelHit<D>& hit, bool on) {
        return {{"point", numbers_of<D>(hit.point)}, {"normal", numbers_of<D>(hit.normal)}, {"on", on}};
    }

    const PoseReading<D>& reading_;
    Bounds<D> around_;
    double size_ = 1.0;
    std::vector<Vec<D>> starts_;
    Json json_;
};

}  // namespace

template <int D>
Json pose_data(const PoseReading<D>& reading) {
    return PoseData<D>(reading).take();
}

template Json pose_data<2>(const PoseReading<2>&);
template Json pose_data<3>(const PoseReading<3>&);

}  // namespace hollow_probe
