// Loops whose results several processes may share.
#pragma once

#include "geometry/bytes.hpp"
#include "geometry/parallel.hpp"
#include "hollow_probe/geometry/shared_work.hpp"

namespace hollow_probe {

/// make(i) of every i below count, in order: made on all threads, and by all processes that share in the
/// work, if there are any. The result is the same. Neighbours with the same home_of(i) are made by one
/// process, and those with that number in other stages, too, if it can be.
template <class Value, class HomeOf, class Make>
std::vector<Value> made_together(const WorkSharing& sharing, std::size_t count, HomeOf home_of, Make make) {
    std::vector<Value> made(count);
    if (!sharing) {
        for_each_index(count, [&](std::size_t i) { made[i] = make(i); });
        return made;
    }
    std::vector<std::size_t> homes;
    std::vector<std::size_t> begins;
    for (std::size_t i = 0; i < count; ++i) {
        const std::size_t home = home_of(i);
        if (!homes.empty() && homes.back() == home) continue;
        homes.push_back(home);
        begins.push_back(i);
    }
    begins.push_back(count);
    const std::vector<std::string> bytes = sharing(homes, [&](std::size_t piece) {
        ByteWriter writer;
        for (std::size_t i = begins[piece]; i < begins[piece + 1]; ++i) {
            Value value = make(i);
            members(writer, value);
        }
        return std::move(writer.bytes);
    });
    for_each_index(homes.size(), [&](std::size_t piece) {
        ByteReader reader(bytes[piece]);
        for (std::size_t i = begins[piece]; i < begins[piece + 1]; ++i) members(reader, made[i]);
    });
    return made;
}

template <class Value, class Make>
std::vector<Value> made_together(const WorkSharing& sharing, std::size_t count, Make make) {
    // Enough for many processes to end together, few enough to be cheap to give out.
    constexpr std::size_t most_pieces = 256;
    const std::size_t each = (count + most_pieces - 1) / most_pieces;
    return made_together<Value>(
        sharing, count, [each](std::size_t i) { return i / each; }, make);
}

}  // namespace hollow_probe
