// What the game does on a signal.
#pragma once

#include <array>
#include <string>

namespace hollow_probe {

enum class ReflexKind {
    permit_jump,    // a jump asked for is given; with one such reflex in the rig, only then
    zero_fall,      // the speed along up is 0, and no gravity
    stop_rise,      // a speed upwards becomes `speed` downwards: the kickback
    cancel_drive,   // no speed into what the signal's probe hit
    cancel_axis,    // no speed along `axis`
    hold_height,    // neither rises nor falls: as zero_fall, but meant for walls
    press_down,     // at least `speed` downwards
    lift_over,      // the body is lifted by at most `by` on to what it walks against
    hug_ground,     // put at the ground height that the signal's probe tells, moved by at most `by`
    carry_along,    // moved along with the solid that the signal's probe hit
    turn_back,      // when it turns on, the drive is turned round
    refuse_stance,  // `stance` is not taken
};
inline constexpr std::array all_reflexes = {
    ReflexKind::permit_jump, ReflexKind::zero_fall,   ReflexKind::stop_rise,  ReflexKind::cancel_drive,
    ReflexKind::cancel_axis, ReflexKind::hold_height, ReflexKind::press_down, ReflexKind::lift_over,
    ReflexKind::hug_ground,  ReflexKind::carry_along, ReflexKind::turn_back,  ReflexKind::refuse_stance};

const char* name_of(ReflexKind kind);  // "permit_jump", …

/// Which part of a velocity a reflex cancels.
enum class ReflexAxis { across_up, along_up };

struct Reflex {
    std::string on;  // the signal
    ReflexKind kind = ReflexKind::permit_jump;
    bool when_off = false;                    // it acts while the signal is off
    double speed = 0.0;                       // stop_rise, press_down: length per second; >= 0
    double by = 0.0;                          // lift_over, hug_ground: length; > 0
    ReflexAxis axis = ReflexAxis::across_up;  // cancel_axis
    std::string stance = {};                  // refuse_stance
    std::string name = {};                    // empty: the signal and what is done, see name_of()
};

/// The name it was given, or else "<signal> <what it does>".
std::string name_of(const Reflex& reflex);

}  // namespace hollow_probe
