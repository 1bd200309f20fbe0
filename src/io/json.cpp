#include "io/json.hpp"

template class nlohmann::detail::serializer<nlohmann::ordered_json>;
