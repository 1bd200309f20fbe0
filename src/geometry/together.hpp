// Loops whose results several processes may share.
#pragma once

#include <algorithm>

#include "geometry/bytes.hpp"
#include "geometry/parallel.hpp"
#include "hollow_probe/geometry/shared_work.hpp"

namespace hollow_probe {

/// make(i) of every i below count, in order: made on all threads, and by all processes that share in the
/// work, if there are any. The result is the same.
template <class Value, class Make>
std::vector<Value> made_together(const WorkSharing& sharing, std::size_t count, Make make) {
    std::vector<Value> made(count);
    if (!sharing) {
        for_each_index(count, [&](std::size_t i) { made[i] = make(i); });
        return made;
    }
    // Enough for many processes to end together, few enough to be cheap to give out.
    constexpr std::size_t most_pieces = 256;
    const std::size_t each = (count + most_pieces - 1) / most_pieces;
    const std::size_t pieces = count == 0 ? 0 : (count + each - 1) / each;
    const std::vector<std::string> bytes = sharing(pieces, [&](std::size_t piece) {
        ByteWriter writer;
        for (std::size_t i = piece * each; i < std::min(count, (piece + 1) * each); ++i) {
            Value value = make(i);
            members(writer, value);
        }
        return std::move(writer.bytes);
    });
    for (std::size_t piece = 0; piece < pieces; ++piece) {
        ByteReader reader(bytes[piece]);
        for (std::size_t i = piece * each; i < std::min(count, (piece + 1) * each); ++i)
            members(reader, made[i]);
    }
    return made;
}

}  // namespace hollow_probe
