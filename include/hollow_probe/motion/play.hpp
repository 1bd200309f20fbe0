// Playing a drill: a rig's body moved through a level tick by tick, every signal held against truth.
#pragma once

#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "hollow_probe/level/level.hpp"
#include "hollow_probe/motion/drill.hpp"
#include "hollow_probe/motion/figures.hpp"
#include "hollow_probe/rig/mount.hpp"

namespace hollow_probe {

/// One tick, as it ended.
template <int D>
struct TickRecord {
    double seconds = 0.0;  // since the start
    Vec<D> anchor = Vec<D>::zero();
    Vec<D> velocity = Vec<D>::zero();  // the game's own
    Vec<D> heading = Vec<D>::zero();
    Vec<D> drive = Vec<D>::zero();  // that the game was told, a length of at most 1
    std::size_t stance = 0;
    std::uint32_t pressed = 0;  // keys the game was told of, bits of DrillRecord::keys
    bool jumped = false;
    bool on_ground = false;      // truth
    bool under_ceiling = false;  // truth; looked at off the ground only
    double clip = 0.0;           // truth
    bool tunnelled = false;      // truth, of this tick's way
    std::uint32_t contacts = 0;  // pieces touched
    ReadingSet probes_on;
    SignalSet signals_on;
    SignalSet truths_on;
    SignalSet undecided;
    SignalSet held;  // signals that claim ground, wrongly, within what the intent lets them hold on to
};

/// A promise the drill did not keep.
struct Broken {
    std::size_t expectation = 0;  // its number in the drill
    double got = 0.0;             // the figure; how near it came to an area it did not reach
    double seconds = 0.0;         // when it was first broken; the end, for what shows only then
    std::vector<double> at;       // where the anchor was
};

template <int D>
struct DrillRecord {
    DrillFigures figures;
    std::vector<Broken> broken;  // by number
    /// By expectation: 0 far from broken, 1 at the limit (of counts: one too many), more beyond.
    std::vector<double> nearness;
    std::vector<std::string> keys;      // that cues press
    std::vector<TickRecord<D>> ticks;   // if they were to be kept
    std::vector<Reading<D>> readings;   // if they were to be kept: all probes of each tick
    std::vector<std::uint32_t> moving;  // solids that can move
    std::vector<Vec<D>> offsets;        // if ticks were kept: theirs, from where the level has them, of each
    TickRecord<D> start;                // before the first tick
    TickRecord<D> last;
    [[nodiscard]] bool kept() const { return broken.empty(); }
};

/// What a reflex of the game's own sees, and may change: after those of the rig, before the move.
template <int D>
struct ReflexCall {
    double seconds = 0.0;  // at the start of the tick
    const Vec<D>& anchor;
    Vec<D>& velocity;
    const Vec<D>& drive;
    SignalSet signals_on;
    std::span<const Reading<D>> readings;
    bool& jump;  // whether the body takes off in this tick
};

template <int D>
struct PlayOptions {
    bool keep_ticks = true;
    bool keep_readings = false;
    std::function<void(ReflexCall<D>&)> reflex;
};

/// What a cue may press: "jump", and the events that mute a signal of the rig.
template <int D>
std::vector<std::string> keys_of(const Rig<D>& rig);

/// Before the first tick the rig is read once where the body starts. A tick, in this order:
/// 1. Cues that are due are told, as `sampled` says. A stance that is asked for is taken unless refused.
/// 2. The part of the velocity across up goes to drive × top_speed, gravity is added to the part along up
///    (v += a·dt; then x += v·dt: the semi-implicit Euler method). Without gravity the drive may point
///    anywhere.
/// 3. A rig that reads before the move is read here, with this velocity.
/// 4. Reflexes act on the velocity, in the order of the rig, by the signals last read; then a jump that is
///    asked for and permitted sets the part along up to jump_speed.
/// 5. Solids with paths move, push the body and, by carry_along, carry it; the body moves, by its model.
/// 6. A rig that reads after the move is read here.
/// 7. Truths are asked for where the body is now, and held against the signals as they now are.
///
/// The same input gives the same record. Throws InvalidInput for a drill or rig that check() refuses, and
/// for stances, solids, signals, areas and keys there are not.
template <int D>
DrillRecord<D> play(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                    const PlayOptions<D>& options = {});

/// What playing many drills can share.
template <int D>
struct StageParts;

/// For playing many drills of one rig on one level: what does not change is made once. Not for several
/// threads at once; make one for each.
template <int D>
class Stage {
  public:
    Stage(const Level<D>& level, const Rig<D>& rig);
    ~Stage();
    Stage(Stage&&) noexcept;
    Stage& operator=(Stage&&) noexcept;
    Stage(const Stage&) = delete;
    Stage& operator=(const Stage&) = delete;

    DrillRecord<D> play(const Drill<D>& drill, const PlayOptions<D>& options = {});

  private:
    std::unique_ptr<StageParts<D>> parts_;
};

template <int D>
struct Moment;

/// Everything that an open drill goes on from, to go back to as often as one likes.
template <int D>
struct DrillMoment {
    std::shared_ptr<const Moment<D>> state;
    std::vector<Cue<D>> cues;
    TickRecord<D> last;
    std::size_t ticks = 0;
};

/// A drill that is made while it is played: what the player does is given as it happens.
///
///     OpenDrill<2> game(level, rig, drill);  // where it starts, how the body moves; its cues are left out
///     game.give({.drive = Vec<2>(1, 0)});
///     for (int i = 0; i < 60; ++i) show(game.tick());
///     const DrillRecord<2> same = play(level, rig, game.drill());
///
/// play() of drill() makes the same ticks, to the last bit, but for the numbers of keys, which stand in the
/// order of presses there. Level and rig must outlive it.
template <int D>
class OpenDrill {
  public:
    /// Throws InvalidInput as play() does.
    OpenDrill(const Level<D>& level, const Rig<D>& rig, Drill<D> drill);
    ~OpenDrill();
    OpenDrill(OpenDrill&&) noexcept;
    OpenDrill& operator=(OpenDrill&&) noexcept;
    OpenDrill(const OpenDrill&) = delete;
    OpenDrill& operator=(const OpenDrill&) = delete;

    /// From the next tick on; when it says it comes is left aside. Throws InvalidInput for keys and stances
    /// there are not.
    void give(Cue<D> cue);
    /// Throws InvalidInput after 10 million.
    const TickRecord<D>& tick();

    [[nodiscard]] DrillMoment<D> keep() const;
    /// Of this drill, or of another made of the same level, rig and drill: the same inputs make the same
    /// ticks again, to the last bit.
    void go_back(const DrillMoment<D>& moment);

    /// Of the last tick; of the start before the first.
    [[nodiscard]] const TickRecord<D>& now() const;
    [[nodiscard]] std::size_t ticks() const;
    [[nodiscard]] std::span<const Reading<D>> readings() const;
    /// Solids that can move, and where each of them is now, from where the level has it.
    [[nodiscard]] const std::vector<std::uint32_t>& moving() const;
    [[nodiscard]] Vec<D> offset(std::uint32_t solid) const;
    /// The level with everything where it is now.
    [[nodiscard]] const Level<D>& level() const;
    /// All that was done so far, and so many seconds; before the first tick one tick.
    [[nodiscard]] Drill<D> drill() const;

  private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

extern template class OpenDrill<2>;
extern template class OpenDrill<3>;
extern template std::vector<std::string> keys_of<2>(const Rig<2>&);
extern template std::vector<std::string> keys_of<3>(const Rig<3>&);
extern template class Stage<2>;
extern template class Stage<3>;
extern template DrillRecord<2> play<2>(const Level<2>&, const Rig<2>&, const Drill<2>&,
                                       const PlayOptions<2>&);
extern template DrillRecord<3> play<3>(const Level<3>&, const Rig<3>&, const Drill<3>&,
                                       const PlayOptions<3>&);

}  // namespace hollow_probe
