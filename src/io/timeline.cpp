#include "hollow_probe/io/timeline.hpp"

#include <fmt/format.h>

#include "hollow_probe/verify/survey.hpp"
#include "io/json.hpp"

namespace hollow_probe {
namespace {

bool bit(std::uint64_t bits, std::size_t number) {
    return (bits >> number & 1U) != 0;
}

template <int D>
Verdict verdict_of(const TickRecord<D>& tick, std::size_t signal) {
    SurveyPose<D> pose;
    pose.signals_on = tick.signals_on;
    pose.truths_on = tick.truths_on;
    pose.undecided = tick.undecided;
    return pose.verdict(signal);
}

template <int D>
std::string pressed_in(const DrillRecord<D>& record, const TickRecord<D>& tick) {
    std::string all;
    for (std::size_t k = 0; k < record.keys.size(); ++k) {
        if (bit(tick.pressed, k)) all += (all.empty() ? "" : " ") + record.keys[k];
    }
    return all;
}

/// One cell: in quotes where it must be.
std::string cell(const std::string& text) {
    if (text.find_first_of(",\"\n\r") == std::string::npos) return text;
    std::string quoted = "\"";
    for (const char c : text) quoted += c == '"' ? std::string("\"\"") : std::string(1, c);
    return quoted + "\"";
}

/// What every column is called and holds.
template <int D>
class Row {
  public:
    explicit Row(bool heads) : heads_(heads) {}

    template <class Value>
    void add(const std::string& name, const Value& value) {
        if (!text_.empty()) text_ += ',';
        text_ += cell(heads_ ? name : fmt::format("{}", value));
    }
    void add(const std::string& name, bool value) { add(name, value ? 1 : 0); }
    void add(const std::string& name, const Vec<D>& v) {
        static constexpr std::array<const char*, 3> axes = {"x", "y", "z"};
        for (int axis = 0; axis < D; ++axis)
            add((name.empty() ? "" : name + "_") + axes[static_cast<std::size_t>(axis)], v[axis]);
    }
    [[nodiscard]] std::string line() const { return text_ + "\n"; }

  private:
    bool heads_;
    std::string text_;
};

template <int D>
std::string row_of(const Rig<D>& rig, const DrillRecord<D>& record, std::size_t number, bool heads) {
    const TickRecord<D> none;
    const TickRecord<D>& tick = heads ? none : record.ticks[number];
    Row<D> row(heads);
    row.add("tick", number);
    row.add("seconds", tick.seconds);
    row.add("", tick.anchor);
    row.add("velocity", tick.velocity);
    row.add("heading", tick.heading);
    row.add("stance", rig.body.stances[tick.stance].name);
    row.add("drive", tick.drive);
    row.add("pressed", pressed_in(record, tick));
    row.add("jumped", tick.jumped);
    row.add("true_ground", tick.on_ground);
    row.add("true_ceiling", tick.under_ceiling);
    row.add("clip", tick.clip);
    row.add("tunnelled", tick.tunnelled);
    row.add("contacts", tick.contacts);
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        const std::string& name = rig.signals[i].name;
        row.add(name, tick.signals_on.has(i));
        row.add(name + " truth", tick.truths_on.has(i));
        row.add(name + " verdict", std::string(name_of(verdict_of(tick, i))));
    }
    for (std::size_t i = 0; i < rig.probes.size(); ++i) {
        const std::string& name = rig.probes[i].name;
        row.add(name, tick.probes_on.has(i));
        const Reading<D>* reading =
            heads || record.readings.empty() ? nullptr : &record.readings[number * rig.probes.size() + i];
        const bool met = reading != nullptr && reading->met;
        row.add(name + " distance", met ? fmt::format("{}", reading->hit.distance) : std::string());
    }
    return row.line();
}

}  // namespace

template <int D>
std::string timeline_csv(const Rig<D>& rig, const DrillRecord<D>& record) {
    std::string text = row_of<D>(rig, record, 0, true);
    for (std::size_t i = 0; i < record.ticks.size(); ++i) text += row_of<D>(rig, record, i, false);
    return text;
}

template <int D>
std::string timeline_json_lines(const Rig<D>& rig, const DrillRecord<D>& record) {
    std::string text;
    for (std::size_t number = 0; number < record.ticks.size(); ++number) {
        const TickRecord<D>& tick = record.ticks[number];
        Json json = {{"tick", number},
                     {"seconds", tick.seconds},
                     {"anchor", numbers_of<D>(tick.anchor)},
                     {"velocity", numbers_of<D>(tick.velocity)},
                     {"heading", numbers_of<D>(tick.heading)},
                     {"stance", rig.body.stances[tick.stance].name},
                     {"drive", numbers_of<D>(tick.drive)},
                     {"pressed", pressed_in(record, tick)},
                     {"jumped", tick.jumped},
                     {"true_ground", tick.on_ground},
                     {"true_ceiling", tick.under_ceiling},
                     {"clip", tick.clip},
                     {"tunnelled", tick.tunnelled},
                     {"contacts", tick.contacts},
                     {"signals", Json::object()},
                     {"probes", Json::object()}};
        for (std::size_t i = 0; i < rig.signals.size(); ++i) {
            json["signals"][rig.signals[i].name] = {{"on", tick.signals_on.has(i)},
                                                    {"truth", tick.truths_on.has(i)},
                                                    {"verdict", name_of(verdict_of(tick, i))}};
        }
        for (std::size_t i = 0; i < rig.probes.size(); ++i) {
            Json probe = {{"on", tick.probes_on.has(i)}};
            if (!record.readings.empty()) {
                const Reading<D>& reading = record.readings[number * rig.probes.size() + i];
                if (reading.met) {
                    probe["distance"] = reading.hit.distance;
                    probe["normal"] = numbers_of<D>(reading.hit.normal);
                }
            }
            json["probes"][rig.probes[i].name] = probe;
        }
        text += json.dump() + "\n";
    }
    return text;
}

template std::string timeline_csv<2>(const Rig<2>&, const DrillRecord<2>&);
template std::string timeline_csv<3>(const Rig<3>&, const DrillRecord<3>&);
template std::string timeline_json_lines<2>(const Rig<2>&, const DrillRecord<2>&);
template std::string timeline_json_lines<3>(const Rig<3>&, const DrillRecord<3>&);

}  // namespace hollow_probe
