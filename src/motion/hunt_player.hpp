// What a player may do, drawn at random, and changed.
#pragma once

#include <algorithm>
#include <cmath>
#include <set>

#include "geometry/random.hpp"
#include "hollow_probe/motion/play.hpp"

namespace hollow_probe {

/// All that a player can do.
template <int D>
struct HuntChoices {
    Vec<D> up;
    std::vector<Vec<D>> drives;    // the last lets go
    std::vector<Vec<D>> headings;  // empty: they follow the drive
    std::vector<std::string> keys;
    std::vector<std::string> stances;  // empty: there is only one

    HuntChoices(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill) : up(level.up()) {
        const int across = up.abs().smallest_axis();
        const Vec<D> first = level_heading<D>(Vec<D>::unit(across), up);
        if constexpr (D == 2) {
            drives = {first, -first};
        } else {
            const Vec<3> second = first.cross(up);
            for (int i = 0; i < 8; ++i) {
                const double angle = 0.25 * std::numbers::pi * i;
                drives.push_back(std::cos(angle) * first + std::sin(angle) * second);
            }
        }
        if (!drill.motion.turns) headings = drives;
        if (drill.motion.gravity == 0.0) {
            drives.push_back(up);
            drives.push_back(-up);
        }
        drives.push_back(Vec<D>::zero());
        std::set<std::string> all;
        if (drill.motion.jump_speed > 0.0) all.insert("jump");
        for (const Cue<D>& cue : drill.cues) all.insert(cue.press);
        for (const Signal& signal : rig.signals) all.insert(signal.mute_after.event);
        for (const Probe<D>& probe : rig.probes) {
            if (probe.kind() == ProbeKind::zone && probe.zone().keeps == Keeps::until_used)
                all.insert(probe.zone().used_by);
        }
        all.erase("");
        if (drill.motion.jump_speed == 0.0) all.erase("jump");
        keys = {all.begin(), all.end()};
        if (rig.body.stances.size() > 1) {
            for (const Stance<D>& stance : rig.body.stances) stances.push_back(stance.name);
        }
    }
};

/// Draws input sequences and changes them.
template <int D>
class HuntPlayer {
  public:
    /// Nothing is done before `from` seconds.
    HuntPlayer(const HuntChoices<D>& choices, const Drill<D>& drill, double from, std::uint64_t seed)
        : choices_(choices), drill_(drill), from_(from), state_(seed) {}

    std::size_t below(std::size_t count) { return static_cast<std::size_t>(next_random(state_) % count); }

    std::vector<Cue<D>> fresh() {
        std::vector<Cue<D>> cues;
        cues.push_back(something());
        cues.back().at = from_;
        const std::size_t count = 1 + below(16);
        for (std::size_t i = 0; i < count; ++i) cues.push_back(something());
        return cues;
    }

    /// What players do most: one way held, seldom another after it, and keys pressed again and again, now and
    /// then or as fast as can be. Three of four go `toward` where something is to be reached (zero: nothing
    /// is).
    std::vector<Cue<D>> steady(const Vec<D>& toward) {
        constexpr int most_presses = 32;
        std::vector<Cue<D>> cues;
        const double room = drill_.seconds - from_;
        const std::size_t ways = below(4) == 0 ? 2 : 1;
        for (std::size_t i = 0; i < ways; ++i) {
            Cue<D>& cue = cues.emplace_back();
            cue.at = i == 0 ? from_ : time();
            const bool leads_there = i == 0 && !toward.is_zero(0.0) && below(4) != 0;
            cue.drive = leads_there ? toward : choices_.drives[below(choices_.drives.size() - 1)];
            if (below(3) == 0) *cue.drive *= 0.01 * static_cast<double>(1 + below(99));
            if (choices_.headings.empty()) continue;
            Cue<D> looks;
            looks.at = cue.at;
            looks.heading = choices_.headings[below(choices_.headings.size())];
            cues.push_back(looks);
        }
        if (choices_.keys.size() + choices_.stances.size() == 0) return cues;
        const double period = std::max(0.06 * std::exp2(5.0 * part()), room / most_presses);
        for (double at = period * part(); at < room; at += period * (0.5 + part())) {
            Cue<D> cue = something_pressed();
            cue.at = from_ + std::floor(at * drill_.tick_rate) / drill_.tick_rate + within_a_tick();
            cues.push_back(std::move(cue));
        }
        return cues;
    }

    /// Something to do from `seconds` on, for as long as `window`: a few things at any time in it, or in one
    /// case of three several within a few ticks. Where something is beside (`beside` points away from it),
    /// one drive of four leads along it, towards it or away.
    std::vector<Cue<D>> further(double seconds, double window, const Vec<D>& beside) {
        std::vector<Cue<D>> cues;
        const auto ticks = static_cast<std::size_t>(window * drill_.tick_rate) + 1;
        const bool at_once = below(3) == 0;
        const std::size_t count = at_once ? 2 + below(3) : 1 + below(4);
        const std::size_t room = at_once ? std::min<std::size_t>(ticks, 2 + below(8)) : ticks;
        const auto late = static_cast<double>(at_once ? below(ticks) : 0) / drill_.tick_rate;
        for (std::size_t i = 0; i < count; ++i) {
            Cue<D> cue = at_once && i > 0 ? something_pressed() : something();
            if (cue.drive && !beside.is_zero(0.0) && below(4) == 0) *cue.drive = about(beside);
            const double step = i == 0 ? 0.0 : static_cast<double>(below(room)) / drill_.tick_rate;
            cue.at = seconds + late + step + within_a_tick();
            cues.push_back(std::move(cue));
        }
        std::stable_sort(cues.begin(), cues.end(),
                         [](const Cue<D>& a, const Cue<D>& b) { return a.at < b.at; });
        return cues;
    }

    std::vector<Cue<D>> changed(std::vector<Cue<D>> cues, const std::vector<Cue<D>>& other) {
        const std::size_t count = 1 + below(3);
        for (std::size_t i = 0; i < count; ++i) change(cues, other);
        return cues;
    }

    /// All presses, pairs and, where they are few, threes of them within the next few ticks, the shortest
    /// first.
    std::vector<std::vector<Cue<D>>> every_few_presses(double seconds) {
        constexpr std::size_t most = 400;
        const std::size_t kinds = choices_.keys.size() + choices_.stances.size();
        std::vector<std::vector<Cue<D>>> all;
        if (kinds == 0) return all;
        const auto pairs = [&](std::size_t ticks) {
            return kinds * ticks + kinds * ticks * (kinds * ticks - 1) / 2;
        };
        std::size_t ticks = 6;
        while (ticks > 1 && pairs(ticks) > most) --ticks;
        const std::size_t count = kinds * ticks;
        const auto nth = [&](std::size_t number) {
            Cue<D> cue = pressed(number % kinds);
            const std::size_t tick = number / kinds;
            cue.at = seconds + static_cast<double>(tick) / drill_.tick_rate + within_a_tick();
            return cue;
        };
        for (std::size_t i = 0; i < count; ++i) all.push_back({nth(i)});
        for (std::size_t i = 0; i < count; ++i) {
            for (std::size_t k = i + 1; k < count; ++k) all.push_back({nth(i), nth(k)});
        }
        if (pairs(ticks) + count * (count - 1) * (count - 2) / 6 > most) return all;
        for (std::size_t i = 0; i < count; ++i) {
            for (std::size_t k = i + 1; k < count; ++k) {
                for (std::size_t l = k + 1; l < count; ++l) all.push_back({nth(i), nth(k), nth(l)});
            }
        }
        return all;
    }

    /// From 0 to 1.
    double part() { return static_cast<double>(next_random(state_) >> 11U) * 0x1p-53; }

  private:
    /// Where presses are told by frames it matters when within a tick they come.
    double within_a_tick() {
        return drill_.sampled == Sampled::on_frame ? 0.999 * part() / drill_.tick_rate : 0.0;
    }

    /// A key, or a stance, if there is any.
    Cue<D> something_pressed() {
        const std::size_t count = choices_.keys.size() + choices_.stances.size();
        return count == 0 ? something() : pressed(below(count));
    }

    /// Keys first, then stances.
    [[nodiscard]] Cue<D> pressed(std::size_t which) const {
        Cue<D> cue;
        if (which < choices_.keys.size()) {
            cue.press = choices_.keys[which];
        } else {
            cue.stance = choices_.stances[which - choices_.keys.size()];
        }
        return cue;
    }

    Vec<D> about(const Vec<D>& beside) {
        if constexpr (D == 3) {
            const std::size_t way = below(4);
            if (way < 2) return (way == 0 ? 1.0 : -1.0) * beside.cross(choices_.up);
            return way == 2 ? -beside : beside;
        }
        return beside;
    }

    /// On a tick.
    double time() {
        const auto ticks = static_cast<std::size_t>((drill_.seconds - from_) * drill_.tick_rate);
        return from_ + static_cast<double>(below(std::max<std::size_t>(ticks, 1))) / drill_.tick_rate;
    }

    Cue<D> something() {
        Cue<D> cue;
        cue.at = time();
        const std::size_t kind = below(10);
        if (kind >= 6 && !choices_.keys.empty()) {
            cue.press = choices_.keys[below(choices_.keys.size())];
        } else if (kind == 5 && !choices_.stances.empty()) {
            cue.stance = choices_.stances[below(choices_.stances.size())];
        } else if (kind >= 3 && !choices_.headings.empty()) {
            cue.heading = choices_.headings[below(choices_.headings.size())];
        } else {
            cue.drive = choices_.drives[below(choices_.drives.size())];
            const std::size_t how = below(8);
            if (how < 2) *cue.drive *= 0.01 * static_cast<double>(1 + below(99));  // a stick half pushed
            if constexpr (D == 3) {
                // … or turned anyhow.
                if (how == 2 || how == 3)
                    *cue.drive = turn_about(choices_.up, 2.0 * std::numbers::pi * part()) * *cue.drive;
            }
        }
        return cue;
    }

    void change(std::vector<Cue<D>>& cues, const std::vector<Cue<D>>& other) {
        constexpr std::size_t most_cues = 64;
        const std::size_t kind = below(8);
        if (cues.empty() || (kind < 2 && cues.size() < most_cues)) {
            cues.push_back(something());
            return;
        }
        Cue<D>& cue = cues[below(cues.size())];
        if (cue.drive && below(3) == 0) {
            // A stick pushed a little more or less.
            *cue.drive *= 1.0 + 0.3 * (part() - 0.5);
            if (cue.drive->norm() > 1.0) cue.drive->normalize();
            return;
        }
        if (kind == 2) {
            cue = something();
        } else if (kind == 3) {
            cues.erase(cues.begin() + (&cue - cues.data()));
        } else if (kind < 6) {
            // A little sooner or later.
            const double by = (static_cast<double>(below(41)) - 20.0) / drill_.tick_rate;
            cue.at = std::clamp(cue.at + by, from_, drill_.seconds);
        } else if (kind == 6 && !other.empty()) {
            // From some time on as another did.
            const double from = time();
            std::erase_if(cues, [&](const Cue<D>& own) { return own.at >= from; });
            for (const Cue<D>& its : other) {
                if (its.at >= from && cues.size() < most_cues) cues.push_back(its);
            }
        } else {
            const double at = cue.at;
            cue = something();
            cue.at = at;
        }
    }

    const HuntChoices<D>& choices_;
    const Drill<D>& drill_;
    double from_;
    std::uint64_t state_;
};

}  // namespace hollow_probe
