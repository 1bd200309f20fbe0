// The words that stand for choices in files, each list in the order of its enumeration.
#pragma once

#include <array>
#include <string_view>

namespace hollow_probe {

using WordsOf2 = std::array<std::string_view, 2>;
using WordsOf3 = std::array<std::string_view, 3>;

inline constexpr std::array<std::string_view, 5> probe_kind_words = {"ray", "cast", "zone", "shift",
                                                                     "contact"};
inline constexpr WordsOf2 take_words = {"first", "all"};
inline constexpr WordsOf3 if_inside_words = {"report", "ignore", "against"};
inline constexpr WordsOf3 one_way_words = {"as_body", "always", "never"};
inline constexpr WordsOf3 keeps_words = {"set", "last_event", "until_used"};
inline constexpr WordsOf3 shift_axes_words = {"both", "across_up", "along_up"};
inline constexpr WordsOf3 side_words = {"below", "above", "beside"};
inline constexpr WordsOf2 match_words = {"includes", "only"};
inline constexpr WordsOf2 reads_words = {"after_move", "before_move"};
inline constexpr WordsOf2 faces_words = {"both", "front"};
inline constexpr WordsOf3 spread_axis_words = {"forward", "up", "right"};
inline constexpr WordsOf3 toward_words = {"heading", "drive", "velocity"};
inline constexpr std::array<std::string_view, 12> reflex_words = {
    "permit_jump", "zero_fall", "stop_rise",  "cancel_drive", "cancel_axis", "hold_height",
    "press_down",  "lift_over", "hug_ground", "carry_along",  "turn_back",   "refuse_stance"};
inline constexpr WordsOf2 when_words = {"on", "off"};
inline constexpr WordsOf2 reflex_axis_words = {"across_up", "along_up"};

}  // namespace hollow_probe
