#include "hollow_probe/level/content_hash.hpp"

#include "geometry/mixed_hash.hpp"

namespace hollow_probe {
namespace {

template <int D>
void add(const Vec<D>& v, MixedHash& hash) {
    for (int axis = 0; axis < D; ++axis) hash.add(v[axis]);
}

template <int D>
void add(const Solid<D>& solid, MixedHash& hash) {
    for (const std::uint32_t number : {solid.layer, solid.first_piece, solid.piece_count})
        hash.add(static_cast<std::uint64_t>(number));
    hash.add(static_cast<std::uint64_t>(solid.role));
    hash.add(static_cast<std::uint64_t>(solid.bit));
    for (const bool flag : {solid.closed, solid.volume, solid.one_way.has_value(),
                            solid.sensed_when.has_value(), solid.path.has_value()})
        hash.add(std::uint64_t{flag});
    if (solid.one_way) add<D>(*solid.one_way, hash);
    if (solid.sensed_when) {
        for (const std::string& stance : solid.sensed_when->stances) hash.add(stance);
        hash.add(solid.sensed_when->slowest);
        hash.add(solid.sensed_when->fastest);
    }
    if (solid.path) {
        hash.add(static_cast<std::uint64_t>(solid.path->stops.size()));
        for (const Vec<D>& stop : solid.path->stops) add<D>(stop, hash);
        hash.add(solid.path->pace);
        hash.add(solid.path->wait);
    }
}

}  // namespace

template <int D>
std::string content_hash(const Level<D>& level) {
    MixedHash hash;
    hash.add(static_cast<std::uint64_t>(D));
    add<D>(level.up(), hash);
    for (const std::string& layer : level.layers()) hash.add(layer);
    hash.add(static_cast<std::uint64_t>(level.solids().size()));
    for (const Solid<D>& solid : level.solids()) add<D>(solid, hash);
    for (std::uint32_t i = 0; i < level.piece_count(); ++i) {
        const HullView<D> piece = level.piece(i);
        hash.add(static_cast<std::uint64_t>(piece.points.size()));
        hash.add(piece.radius);
        for (const Vec<D>& point : piece.points) add<D>(point, hash);
    }
    for (const StartPoint<D>& start : level.starts()) {
        add<D>(start.at, hash);
        add<D>(start.heading, hash);
    }
    for (const Area<D>& area : level.areas()) {
        hash.add(area.name);
        add<D>(area.box.low, hash);
        add<D>(area.box.high, hash);
    }
    return hash.text();
}

std::string content_hash(std::string_view bytes) {
    MixedHash hash;
    hash.add(bytes);
    return hash.text();
}

template std::string content_hash<2>(const Level<2>&);
template std::string content_hash<3>(const Level<3>&);

}  // namespace hollow_probe
