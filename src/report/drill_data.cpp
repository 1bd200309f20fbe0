#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "hollow_probe/report/drill_text.hpp"
#include "report/page_data.hpp"
#include "report/page_shapes.hpp"

namespace hollow_probe {
namespace {

template <int D>
class DrillData {
  public:
    DrillData(const Level<D>& level, const Rig<D>& rig, const DrillRecord<D>& record)
        : level_(level), rig_(rig), record_(record) {
        for (std::size_t stance = 0; stance < rig.body.stances.size(); ++stance)
            mounted_.emplace_back(rig, level, stance, record.start.heading);
    }

    void fill(Json& json) {
        add_body(json);
        for (std::size_t i = 0; i < rig_.probes.size(); ++i) {
            json["probes"].push_back({{"name", rig_.probes[i].name}, {"number", i}});
            // One line for what has none: a zone is where it is, a contact where it touches.
            const std::size_t lines = std::max<std::size_t>(mounted_.front().probes[i].lines.size(), 1);
            for (std::size_t line = 0; line < lines; ++line) {
                json["lines"].push_back({{"probe", i}});
                lines_.emplace_back(i, line);
            }
        }
        for (std::size_t t = 0; t < record_.ticks.size(); ++t) add_tick(t);
        json["ticks"] = {
            {"count", record_.ticks.size()},    {"seconds", seconds_.text()},   {"anchors", anchors_.text()},
            {"velocities", velocities_.text()}, {"headings", headings_.text()}, {"stances", stances_.text()},
            {"signals", signals_.text()},       {"pressed", pressed_.text()},   {"jumped", jumped_.text()},
            {"probes_on", probes_on_.text()},   {"lines", ends_.text()},        {"met", met_.text()},
            {"solids", solids_.text()}};
        for (std::size_t m = 0; m < record_.moving.size(); ++m) {
            Packed offsets;
            for (std::size_t t = 0; t < record_.ticks.size(); ++t)
                offsets.add<D>(record_.offsets[t * record_.moving.size() + m]);
            json["moving"].push_back({{"solid", record_.moving[m]}, {"offsets", offsets.text()}});
        }
    }

  private:
    /// Bodies as they look in every heading that matters: in 2D both, in 3D the page turns them.
    void add_body(Json& json) {
        double size = 0.0;
        std::vector<Vec<D>> headings = {record_.start.heading};
        if constexpr (D == 2) headings.push_back(-record_.start.heading);
        for (std::size_t stance = 0; stance < mounted_.size(); ++stance) {
            Json bodies = Json::array();
            for (const Vec<D>& heading : headings) {
                mounted_[stance].aim(Situation<D>{heading});
                Json shapes = Json::array();
                for (const MountedProbe<D>& probe : mounted_[stance].probes) {
                    const bool shaped =
                        probe.mounted && probe.kind != ProbeKind::ray && probe.kind != ProbeKind::contact;
                    shapes.push_back(shaped ? shape_data<D>(probe.shape.view()) : Json(nullptr));
                }
                bodies.push_back({{"heading", numbers_of<D>(heading)},
                                  {"shape", shape_data<D>(mounted_[stance].body.view())},
                                  {"probes", std::move(shapes)}});
            }
            size = std::max(size, mounted_[stance].body.bounds().size().largest());
            json["stances"].push_back({{"name", rig_.body.stances[stance].name}, {"bodies", bodies}});
        }
        json["size"] = size;
    }

    void add_tick(std::size_t t) {
        const TickRecord<D>& tick = record_.ticks[t];
        seconds_.add(tick.seconds);
        anchors_.add<D>(tick.anchor);
        velocities_.add<D>(tick.velocity);
        headings_.add<D>(tick.heading);
        stances_.add(static_cast<std::uint8_t>(tick.stance));
        pressed_.add(static_cast<std::uint16_t>(tick.pressed & 0xFFFFU));
        jumped_.add(static_cast<std::uint8_t>(tick.jumped));
        for (std::size_t s = 0; s < rig_.signals.size(); ++s) {
            const auto bit = [s](SignalSet set) { return unsigned{set.has(s)}; };
            signals_.add(static_cast<std::uint8_t>(bit(tick.signals_on) | bit(tick.truths_on) << 1U |
                                                   bit(tick.undecided) << 2U));
        }
        for (std::size_t i = 0; i < rig_.probes.size(); ++i)
            probes_on_.add(std::uint8_t{tick.probes_on.has(i)});
        MountedRig<D>& rig = mounted_[tick.stance];
        const bool grounded = (tick.signals_on & ground_signals()).any();
        rig.aim({tick.heading, tick.velocity, tick.drive, grounded});
        for (const auto& [probe, line] : lines_) add_line(t, rig.probes[probe], probe, line);
    }

    [[nodiscard]] SignalSet ground_signals() const {
        for (std::size_t s = 0; s < rig_.signals.size(); ++s) {
            if (rig_.signals[s].claims == Claim::ground) return SignalSet::of(s);
        }
        return {};
    }

    void add_line(std::size_t t, const MountedProbe<D>& probe, std::size_t number, std::size_t line) {
        const Reading<D>& reading = record_.readings[t * rig_.probes.size() + number];
        const Vec<D> nowhere = Vec<D>::constant(std::numeric_limits<double>::quiet_NaN());
        const bool touches = probe.kind == ProbeKind::contact;
        const bool drawn = probe.mounted && probe.aimed && !reading.unread &&
                           (touches ? reading.met : line < probe.lines.size());
        if (!drawn) {
            for (int part = 0; part < 4; ++part) ends_.add<D>(nowhere);
            met_.add(std::uint8_t{0});
            solids_.add(no_solid);
            return;
        }
        // Of several lines the reading tells the nearest hit alone.
        const bool met = reading.met && (touches || probe.lines.size() == 1);
        Vec<D> from = touches ? reading.hit.point : record_.ticks[t].anchor + probe.start(line, reading);
        Vec<D> to = from;
        Vec<D> limit = from;
        if (probe.kind == ProbeKind::shift) limit += probe.displacement();
        if (probe.is_line()) limit += probe.reach * probe.lines[line].along;
        if (probe.is_line()) to += (met ? reading.hit.distance : probe.reach) * probe.lines[line].along;
        if (probe.kind == ProbeKind::shift) to += probe.displacement();
        ends_.add<D>(from);
        ends_.add<D>(to);
        ends_.add<D>(met ? reading.hit.normal : Vec<D>::zero());
        ends_.add<D>(limit);
        met_.add(static_cast<std::uint8_t>(met));
        const bool of_solid = met && !reading.own_body;
        solids_.add(of_solid ? static_cast<std::uint16_t>(
                                   std::min<std::uint32_t>(level_.solid_of(reading.hit.piece), no_solid))
                             : no_solid);
    }

    static constexpr std::uint16_t no_solid = 0xFFFF;  // or one that has no number as small

    const Level<D>& level_;
    const Rig<D>& rig_;
    const DrillRecord<D>& record_;
    std::vector<MountedRig<D>> mounted_;                      // by stance
    std::vector<std::pair<std::size_t, std::size_t>> lines_;  // probe and line
    Packed seconds_, anchors_, velocities_, headings_, stances_, signals_, pressed_, jumped_, probes_on_,
        ends_, met_, solids_;
};

std::string expected_words(const Expectation& expected) {
    switch (expected.kind) {
        case Expectation::Kind::reaches:
            return "comes to \"" + expected.area + '"';
        case Expectation::Kind::never_reaches:
            return "never comes to \"" + expected.area + '"';
        case Expectation::Kind::most:
        case Expectation::Kind::least:
            break;
    }
    std::string figure = expected.figure;
    std::replace(figure.begin(), figure.end(), '_', ' ');
    return fmt::format("{}{} at {} {}", figure,
                       expected.signal.empty() ? "" : " of \"" + expected.signal + "\"",
                       expected.kind == Expectation::Kind::most ? "most" : "least", plain(expected.limit));
}

}  // namespace

template <int D>
Json drill_data(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill, const DrillRecord<D>& record,
                const std::string& command) {
    const DrillOutcome outcome = outcome_of<D>(drill, record);
    Json json = {{"kind", "drill"},
                 {"name", fmt::format("{} at {}/s", name_of(outcome), plain(drill.tick_rate))},
                 {"command", command},
                 {"dimensions", D},
                 {"keys", record.keys},
                 {"signals", Json::array()},
                 {"expectations", Json::array()},
                 {"figures", Json::array()},
                 {"stances", Json::array()},
                 {"probes", Json::array()},
                 {"lines", Json::array()},
                 {"moving", Json::array()}};
    for (const Signal& signal : rig.signals)
        json["signals"].push_back({{"name", signal.name}, {"claims", name_of(signal.claims)}});
    for (std::size_t i = 0; i < drill.expectations.size(); ++i) {
        Json one = {{"words", expected_words(drill.expectations[i])}, {"broken", nullptr}};
        for (const Broken& broken : record.broken) {
            if (broken.expectation != i || record.ticks.empty()) continue;
            const double tick = std::round(broken.seconds * drill.tick_rate) - 1.0;
            one["broken"] = {{"words", broken_sentence(outcome, broken)},
                             {"tick", static_cast<std::size_t>(std::clamp(
                                          tick, 0.0, static_cast<double>(record.ticks.size() - 1)))}};
        }
        json["expectations"].push_back(std::move(one));
    }
    for (const char* const name : figure_names()) {
        std::string words = name;
        std::replace(words.begin(), words.end(), '_', ' ');
        const double value = figure(record.figures, name);
        json["figures"].push_back(Json::array({words, std::isfinite(value) ? Json(value) : Json()}));
    }
    DrillData<D>(level, rig, record).fill(json);
    return json;
}

template Json drill_data<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const DrillRecord<2>&,
                            const std::string&);
template Json drill_data<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const DrillRecord<3>&,
                            const std::string&);

}  // namespace hollow_probe
