// A level's content in a few letters: alike for levels that are alike in everything a body can meet.
#pragma once

#include <string>
#include <string_view>

#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

/// Thirty-two hexadecimal digits of up, layers, solids (what they are made of, their roles, sides and paths),
/// starts and areas; of names only those of layers and areas. Levels that differ in any of this have another,
/// but for one chance in very many; it is no defence against whoever looks for two with the same. Not the
/// same on machines of another byte order.
template <int D>
std::string content_hash(const Level<D>& level);

/// Of any bytes.
std::string content_hash(std::string_view bytes);

extern template std::string content_hash<2>(const Level<2>&);
extern template std::string content_hash<3>(const Level<3>&);

}  // namespace hollow_probe
