#include "hollow_probe/motion/figures.hpp"

#include <algorithm>
#include <array>

#include "motion/figure_table.hpp"

namespace hollow_probe {
namespace {

template <auto member>
double of_drill(const DrillFigures& figures) {
    return static_cast<double>(figures.*member);
}

template <auto member>
double of_signal(const SignalFigures& figures) {
    return static_cast<double>(figures.*member);
}

constexpr std::array figure_table = {
    FigureEntry{"missed_ticks", nullptr, of_signal<&SignalFigures::missed_ticks>},
    FigureEntry{"false_ticks", nullptr, of_signal<&SignalFigures::false_ticks>},
    FigureEntry{"undecided_ticks", nullptr, of_signal<&SignalFigures::undecided_ticks>},
    FigureEntry{"forgiven_ticks", nullptr, of_signal<&SignalFigures::forgiven_ticks>},
    FigureEntry{"onset_latency", nullptr, of_signal<&SignalFigures::onset_latency>},
    FigureEntry{"release_latency", nullptr, of_signal<&SignalFigures::release_latency>},
    FigureEntry{"flicker", nullptr, of_signal<&SignalFigures::flicker>},
    FigureEntry{"changes", nullptr, of_signal<&SignalFigures::changes>},
    FigureEntry{"value_error", nullptr, of_signal<&SignalFigures::value_error>},
    FigureEntry{"jumps", of_drill<&DrillFigures::jumps>, nullptr},
    FigureEntry{"refused_jumps", of_drill<&DrillFigures::refused_jumps>, nullptr},
    FigureEntry{"unearned_jumps", of_drill<&DrillFigures::unearned_jumps>, nullptr},
    FigureEntry{"lost_presses", of_drill<&DrillFigures::lost_presses>, nullptr},
    FigureEntry{"double_presses", of_drill<&DrillFigures::double_presses>, nullptr},
    FigureEntry{"hang_time", of_drill<&DrillFigures::hang_time>, nullptr},
    FigureEntry{"hover_time", of_drill<&DrillFigures::hover_time>, nullptr},
    FigureEntry{"cling_time", of_drill<&DrillFigures::cling_time>, nullptr},
    FigureEntry{"idle_drift", of_drill<&DrillFigures::idle_drift>, nullptr},
    FigureEntry{"lost_take_offs", of_drill<&DrillFigures::lost_take_offs>, nullptr},
    FigureEntry{"wall_gap", of_drill<&DrillFigures::wall_gap>, nullptr},
    FigureEntry{"deepest_clip", of_drill<&DrillFigures::deepest_clip>, nullptr},
    FigureEntry{"tunnels", of_drill<&DrillFigures::tunnels>, nullptr},
    FigureEntry{"climb", of_drill<&DrillFigures::climb>, nullptr},
    FigureEntry{"bumpiness", of_drill<&DrillFigures::bumpiness>, nullptr, false},
    FigureEntry{"headway", of_drill<&DrillFigures::headway>, nullptr, false},
    FigureEntry{"stuck_time", of_drill<&DrillFigures::stuck_time>, nullptr},
    FigureEntry{"carried_drift", of_drill<&DrillFigures::carried_drift>, nullptr},
    FigureEntry{"endless_creeps", of_drill<&DrillFigures::endless_creeps>, nullptr},
    FigureEntry{"held_turns", of_drill<&DrillFigures::held_turns>, nullptr},
    FigureEntry{"crushed_ticks", of_drill<&DrillFigures::crushed_ticks>, nullptr},
};

constexpr auto names = [] {
    std::array<const char*, figure_table.size()> result{};
    for (std::size_t i = 0; i < result.size(); ++i) result[i] = figure_table[i].name;
    return result;
}();

}  // namespace

const FigureEntry* find_figure(const std::string& name) {
    const auto* const found = std::find_if(figure_table.begin(), figure_table.end(),
                                           [&](const FigureEntry& entry) { return name == entry.name; });
    return found == figure_table.end() ? nullptr : found;
}

double value_of(const FigureEntry& entry, const DrillFigures& figures, const std::string& signal) {
    if (entry.of_drill != nullptr) return entry.of_drill(figures);
    double worst = signal.empty() ? 0.0 : std::numeric_limits<double>::quiet_NaN();
    for (const SignalFigures& its : figures.signals) {
        if (signal.empty()) worst = std::max(worst, entry.of_signal(its));
        if (its.name == signal) return entry.of_signal(its);
    }
    return worst;
}

std::span<const char* const> figure_names() {
    return names;
}

bool is_of_signals(const std::string& name) {
    const FigureEntry* const entry = find_figure(name);
    return entry != nullptr && entry->of_signal != nullptr;
}

double figure(const DrillFigures& figures, const std::string& name, const std::string& signal) {
    const FigureEntry* const entry = find_figure(name);
    return entry == nullptr ? std::numeric_limits<double>::quiet_NaN() : value_of(*entry, figures, signal);
}

}  // namespace hollow_probe
