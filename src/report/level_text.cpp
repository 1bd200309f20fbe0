#include "hollow_probe/report/level_text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace hollow_probe {
namespace {

template <int D>
std::string place(const Vec<D>& v) {
    std::string text = "(";
    for (int axis = 0; axis < D; ++axis) text += (axis > 0 ? ", " : "") + plain(v[axis]);
    return text + ")";
}

std::string counted(std::size_t count, const char* one, const char* many) {
    return fmt::format("{} {}", count, count == 1 ? one : many);
}

std::string bytes_text(std::size_t bytes) {
    if (bytes < std::size_t{10} * 1024) return fmt::format("{} bytes", bytes);
    const double kib = static_cast<double>(bytes) / 1024.0;
    return kib < 10.0 * 1024.0 ? fmt::format("{:.0f} KiB", kib) : fmt::format("{:.1f} MiB", kib / 1024.0);
}

std::string seconds_text(double seconds) {
    return seconds < 1.0 ? plain(1e3 * seconds) + " ms" : plain(seconds) + " s";
}

/// Cut to fit, with an ellipsis; counted in letters, not in bytes.
std::string fitted(const std::string& text, std::size_t width) {
    std::size_t letters = 0;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const bool starts = (static_cast<unsigned char>(text[i]) & 0xC0U) != 0x80U;
        if (starts && ++letters > width - 1) {
            const auto rest =
                std::count_if(text.begin() + static_cast<std::ptrdiff_t>(i), text.end(),
                              [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; });
            if (rest > 1) return text.substr(0, i) + "…";
        }
    }
    return text + std::string(width - std::min(letters, width), ' ');
}

std::string when_text(const SensedWhen& when) {
    std::string text;
    for (const std::string& stance : when.stances) text += (text.empty() ? "when " : " or ") + stance;
    if (when.slowest > 0.0) text += (text.empty() ? "at " : ", at ") + plain(when.slowest) + " or faster";
    if (when.fastest < infinity) text += (text.empty() ? "up to " : ", up to ") + plain(when.fastest);
    return text;
}

template <int D>
std::string path_text(const Path<D>& path) {
    return fmt::format("moves at {} between {}, round in {}", plain(path.pace),
                       counted(path.stops.size(), "stop", "stops"), seconds_text(path.period()));
}

/// Starts, areas and what is claimed of them.
template <int D>
std::string places_text(const Level<D>& level) {
    std::string text;
    const auto heading = [&](const char* what) { text += fmt::format("\n{}\n", what); };
    if (!level.starts().empty()) heading("starts");
    for (const StartPoint<D>& start : level.starts())
        text +=
            fmt::format("  {} at {}, heading {}\n", start.name, place<D>(start.at), place<D>(start.heading));
    if (!level.areas().empty()) heading("areas");
    for (const Area<D>& area : level.areas())
        text +=
            fmt::format("  {} from {} to {}\n", area.name, place<D>(area.box.low), place<D>(area.box.high));
    if (!level.claims().empty()) heading("claims");
    for (const AreaClaim& claim : level.claims()) {
        text += fmt::format("  {} is {} true in {}\n", name_of(claim.truth),
                            claim.always ? "always" : "never", claim.area);
    }
    return text;
}

}  // namespace

template <int D>
std::string level_text(const Level<D>& level, const LevelReport<D>& report, const IndexFigures& index,
                       const TextOptions& options) {
    std::size_t facets = 0;
    std::size_t convex = 0;
    std::size_t widest = 5;
    for (std::size_t i = 0; i < report.solids.size(); ++i) {
        facets += report.solids[i].facets;
        convex += report.solids[i].convex;
        widest = std::max(widest, level.solids()[i].name.size());
    }
    widest = std::min<std::size_t>(widest, 28);
    const Vec<D> size = level.bounds().size();
    std::string text = fmt::format(
        "{}D, up {}, {}: {}, {}\nbounds  {} to {}, size {}\nindex   {}, {:.1f} bytes a piece, {}, built in "
        "{}\n",
        D, place<D>(level.up()), counted(level.solids().size(), "solid", "solids"),
        counted(facets, D == 2 ? "segment" : "triangle", D == 2 ? "segments" : "triangles"),
        counted(convex, "convex piece", "convex pieces"), place<D>(level.bounds().low),
        place<D>(level.bounds().high), place<D>(size), bytes_text(level.tree().bytes()),
        static_cast<double>(level.tree().bytes()) / level.piece_count(),
        counted(level.tree().node_count(), "node", "nodes"), seconds_text(index.build_seconds));
    text += fmt::format("\n{}  {:<12}{:>9}{:>9}  surface\n", fitted("solid", widest), "layer",
                        D == 2 ? "segments" : "triangles", "convex");
    constexpr std::size_t most_solids = 40;
    for (std::size_t i = 0; i < std::min(most_solids, report.solids.size()); ++i) {
        const Solid<D>& solid = level.solids()[i];
        const SolidReport& its = report.solids[i];
        std::string surface;
        if (its.facets > 0) {
            surface = its.closed() ? "closed" : "open";
            if (its.islands > 1) surface += fmt::format(", {} islands", its.islands);
        } else {
            surface = "solid";
        }
        if (solid.volume) surface = "volume: queries find it, nothing is there";
        if (solid.one_way) surface += ", one-way";
        if (solid.role == Role::sensed) surface += ", sensed only";
        if (solid.role == Role::reference) surface += ", reference only";
        if (solid.sensed_when) surface += ", sensed " + when_text(*solid.sensed_when);
        if (solid.path) surface += ", " + path_text(*solid.path);
        text += fmt::format("{}  {}{:>9}{:>9}  {}\n", fitted(solid.name, widest),
                            fitted(level.layers()[solid.layer], 12), its.facets, its.convex, surface);
    }
    if (report.solids.size() > most_solids) {
        text += fmt::format("… and {} more solids\n", report.solids.size() - most_solids);
    }
    text += places_text(level);
    std::string odd;
    for (std::size_t k = 0; k < oddity_count; ++k) {
        const auto kind = static_cast<Oddity>(k);
        const std::size_t count = report.count(kind);
        if (count == 0) continue;
        const std::string what = counted(count, name_of(kind), name_of(kind, true));
        odd += options.color ? fmt::format("  \033[1m{}\033[0m\n", what) : fmt::format("  {}\n", what);
        std::size_t shown = 0;
        for (const OddPlace<D>& at : report.places) {
            if (at.oddity != kind) continue;
            if (++shown > 4) break;
            odd += fmt::format("    in {} at {}", level.solids()[at.solid].name, place<D>(at.at));
            if (kind == Oddity::narrow_gap) odd += fmt::format(", {} wide", plain(at.width));
            odd += "\n";
        }
        if (count > std::min<std::size_t>(shown, 4)) {
            odd += fmt::format("    … and {} more\n", count - std::min<std::size_t>(shown, 4));
        }
    }
    text += odd.empty() ? "\nnothing odd found\n" : "\nodd:\n" + odd;
    for (const std::string& warning : level.warnings()) text += "Warning: " + warning + ".\n";
    return text;
}

template std::string level_text<2>(const Level<2>&, const LevelReport<2>&, const IndexFigures&,
                                   const TextOptions&);
template std::string level_text<3>(const Level<3>&, const LevelReport<3>&, const IndexFigures&,
                                   const TextOptions&);

}  // namespace hollow_probe
