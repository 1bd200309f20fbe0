// The one JSON type of results and pages; what writes it is compiled in json.cpp.
#pragma once

#include <cmath>
#include <nlohmann/json.hpp>

#include "hollow_probe/geometry/vec.hpp"

extern template class nlohmann::detail::serializer<nlohmann::ordered_json>;

namespace hollow_probe {

using Json = nlohmann::ordered_json;

template <int D>
Json numbers_of(const Vec<D>& v) {
    Json list = Json::array();
    for (int axis = 0; axis < D; ++axis) list.push_back(v[axis] == 0.0 ? 0.0 : v[axis]);  // no -0.0
    return list;
}

inline Json number_or_null(double x) {
    return std::isfinite(x) ? Json(x) : Json(nullptr);
}

}  // namespace hollow_probe
