#include "hollow_probe/motion/figures.hpp"

#include <algorithm>
#include <array>

#include "motion/figure_table.hpp"

namespace hollow_probe {
namespace {

template <auto member>
constexpr FigureEntry of_drill(const char* name, bool only_grows = true) {
    constexpr bool counts = std::is_same_v<decltype(member), std::size_t DrillFigures::*>;
    return {name, [](const DrillFigures& figures) { return static_cast<double>(figures.*member); }, nullptr,
            counts, only_grows};
}

template <auto member>
constexpr FigureEntry of_signal(const char* name) {
    constexpr bool counts = std::is_same_v<decltype(member), std::size_t SignalFigures::*>;
    return {name, nullptr, [](const SignalFigures& figures) { return static_cast<double>(figures.*member); },
            counts};
}

constexpr std::array figure_table = {
    of_signal<&SignalFigures::missed_ticks>("missed_ticks"),
    of_signal<&SignalFigures::false_ticks>("false_ticks"),
    of_signal<&SignalFigures::undecided_ticks>("undecided_ticks"),
    of_signal<&SignalFigures::forgiven_ticks>("forgiven_ticks"),
    of_signal<&SignalFigures::onset_latency>("onset_latency"),
    of_signal<&SignalFigures::release_latency>("release_latency"),
    of_signal<&SignalFigures::flicker>("flicker"),
    of_signal<&SignalFigures::changes>("changes"),
    of_signal<&SignalFigures::value_error>("value_error"),
    of_drill<&DrillFigures::jumps>("jumps"),
    of_drill<&DrillFigures::refused_jumps>("refused_jumps"),
    of_drill<&DrillFigures::unearned_jumps>("unearned_jumps"),
    of_drill<&DrillFigures::lost_presses>("lost_presses"),
    of_drill<&DrillFigures::double_presses>("double_presses"),
    of_drill<&DrillFigures::hang_time>("hang_time"),
    of_drill<&DrillFigures::hover_time>("hover_time"),
    of_drill<&DrillFigures::cling_time>("cling_time"),
    of_drill<&DrillFigures::idle_drift>("idle_drift"),
    of_drill<&DrillFigures::lost_take_offs>("lost_take_offs"),
    of_drill<&DrillFigures::wall_gap>("wall_gap"),
    of_drill<&DrillFigures::deepest_clip>("deepest_clip"),
    of_drill<&DrillFigures::tunnels>("tunnels"),
    of_drill<&DrillFigures::climb>("climb"),
    of_drill<&DrillFigures::bumpiness>("bumpiness", false),
    of_drill<&DrillFigures::headway>("headway", false),
    of_drill<&DrillFigures::stuck_time>("stuck_time"),
    of_drill<&DrillFigures::carried_drift>("carried_drift"),
    of_drill<&DrillFigures::endless_creeps>("endless_creeps"),
    of_drill<&DrillFigures::held_turns>("held_turns"),
    of_drill<&DrillFigures::crushed_ticks>("crushed_ticks"),
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
