// Moments that a hunt has come to, of different kinds, to go on from.
#pragma once

#include <memory>
#include <unordered_map>

#include "motion/hunt_player.hpp"
#include "motion/playing.hpp"

namespace hollow_probe {

/// A moment that differs from others in kind.
template <int D>
struct Visit {
    std::uint64_t kind = 0;
    std::shared_ptr<const Moment<D>> moment;  // nothing where it was not kept
    std::size_t ticks = 0;                    // since the start
    std::vector<double> near;                 // how near each expectation is to being broken there
};

/// What kind of moment a tick is: where the body is, by halves of its width, how it rises or falls and moves,
/// its stance, what signals and truths say, and whether it touches anything and stands.
template <int D>
std::uint64_t kind_of(const TickRecord<D>& tick, std::size_t signals, double width, const Vec<D>& up,
                      double speed) {
    std::uint64_t kind = 0;
    const auto mix = [&kind](double part) {
        kind ^= static_cast<std::uint64_t>(static_cast<std::int64_t>(std::floor(part)));
        kind = next_random(kind);
    };
    for (int axis = 0; axis < D; ++axis) mix(tick.anchor[axis] / width);
    mix(std::clamp(tick.velocity.dot(up) / speed, -1.0, 1.0));
    mix(static_cast<double>(tick.stance));
    for (std::size_t i = 0; i < signals; ++i)
        mix((tick.signals_on.has(i) ? 2.0 : 0.0) + (tick.truths_on.has(i) ? 1.0 : 0.0));
    mix((tick.contacts == 0 ? 0.5 : 1.5) + (tick.on_ground ? 2.0 : 0.0));
    return kind;
}

/// The archive and the choice by visits are those of A. Ecoffet et al., "First return, then explore", Nature
/// 590, 2021; that what was gone on from least is gone on from next, a power schedule, is of M. Böhme et al.,
/// "Coverage-based greybox fuzzing as Markov chain", CCS 2016. Moments lie in regions, four places wide, that
/// are chosen from first: however many kinds of moments one has, a new one is looked into at once.
template <int D>
class HuntArchive {
  public:
    HuntArchive(std::size_t expectations, double width)
        : region_width_(4.0 * width), nearest_(expectations) {}

    [[nodiscard]] bool knows(std::uint64_t kind) const { return known_.contains(kind); }

    void offer(const Visit<D>& visit) {
        const auto known = known_.find(visit.kind);
        if (known != known_.end()) {
            Reached& reached = *known->second;
            ++reached.seen;
            // A shorter way there.
            if (!visit.moment || !reached.moment || visit.ticks >= reached.moment->ticks) return;
            reached.moment = visit.moment;
            return;
        }
        if (!visit.moment) return;
        const auto reached = std::make_shared<Reached>();
        reached->moment = visit.moment;
        known_.emplace(visit.kind, reached);
        for (std::size_t i = 0; i < nearest_.size(); ++i) note_near(i, visit.near[i], reached);
        const auto [place, fresh] = region_of_.try_emplace(region_of(*visit.moment), regions_.size());
        if (fresh) regions_.emplace_back();
        regions_[place->second].members.push_back(reached);
        if (++held_ > most_held_) forget_some();
    }

    /// Of a few drawn at random, regions first, the least known; null if there is none.
    std::shared_ptr<const Moment<D>> least_known(HuntPlayer<D>& player) {
        constexpr int drawn = 8;
        Region* region = nullptr;
        for (int i = 0; i < drawn && !regions_.empty(); ++i) {
            Region& one = regions_[player.below(regions_.size())];
            if (region == nullptr || one.chosen < region->chosen) region = &one;
        }
        if (region == nullptr) return nullptr;
        ++region->chosen;
        const auto known = [](const Reached& r) { return 8 * r.chosen + std::min<std::size_t>(r.seen, 64); };
        Reached* best = nullptr;
        for (int i = 0; i < drawn; ++i) {
            Reached& one = *region->members[player.below(region->members.size())];
            if (best == nullptr || known(one) < known(*best)) best = &one;
        }
        return chosen(*best);
    }

    /// One of those that came nearest to breaking an expectation; null if none has come near it.
    std::shared_ptr<const Moment<D>> near(std::size_t expectation, HuntPlayer<D>& player) {
        const auto& list = nearest_[expectation];
        if (list.empty()) return nullptr;
        // The nearer the likelier.
        const std::size_t place = std::min(player.below(list.size()), player.below(list.size()));
        return chosen(*list[place].second);
    }

    /// The one that came nearest of those that this was not asked for yet; null if there is none.
    std::shared_ptr<const Moment<D>> nearest_not_tried(std::size_t expectation) {
        for (const auto& [near, reached] : nearest_[expectation]) {
            if (std::exchange(reached->tried, true)) continue;
            return reached->moment;
        }
        return nullptr;
    }

  private:
    struct Reached {
        std::shared_ptr<const Moment<D>> moment;  // nothing once it was forgotten
        bool tried = false;                       // every short sequence of presses from it
        std::size_t seen = 1;
        std::size_t chosen = 0;
    };
    struct Region {
        std::vector<std::shared_ptr<Reached>> members;
        std::size_t chosen = 0;
    };

    static std::shared_ptr<const Moment<D>> chosen(Reached& reached) {
        ++reached.chosen;
        return reached.moment;
    }

    [[nodiscard]] std::uint64_t region_of(const Moment<D>& moment) const {
        std::uint64_t region = moment.stance;
        for (int axis = 0; axis < D; ++axis) {
            region ^= static_cast<std::uint64_t>(
                static_cast<std::int64_t>(std::floor(moment.anchor[axis] / region_width_)));
            region = next_random(region);
        }
        return region;
    }

    /// Of every region the half that was gone on from most; what kinds there were stays known.
    void forget_some() {
        held_ = 0;
        for (Region& region : regions_) {
            auto& members = region.members;
            std::stable_sort(members.begin(), members.end(),
                             [](const auto& a, const auto& b) { return a->chosen < b->chosen; });
            const std::size_t kept = members.size() - members.size() / 2;
            for (std::size_t i = kept; i < members.size(); ++i) {
                if (!is_near(members[i])) members[i]->moment.reset();
            }
            members.resize(kept);
            held_ += kept;
        }
        // Where regions are many, so are the moments held.
        most_held_ = std::max(most_held_, 2 * held_);
    }

    [[nodiscard]] bool is_near(const std::shared_ptr<Reached>& reached) const {
        return std::any_of(nearest_.begin(), nearest_.end(), [&](const auto& list) {
            return std::any_of(list.begin(), list.end(),
                               [&](const auto& near) { return near.second == reached; });
        });
    }

    void note_near(std::size_t expectation, double near, const std::shared_ptr<Reached>& reached) {
        constexpr std::size_t most_near = 24;
        auto& list = nearest_[expectation];
        if (list.size() == most_near && near <= list.back().first) return;
        const auto place =
            std::find_if(list.begin(), list.end(), [&](const auto& other) { return other.first < near; });
        list.insert(place, {near, reached});
        if (list.size() > most_near) list.pop_back();
    }

    double region_width_;
    std::unordered_map<std::uint64_t, std::shared_ptr<Reached>> known_;
    std::unordered_map<std::uint64_t, std::size_t> region_of_;
    std::vector<Region> regions_;
    std::size_t held_ = 0;
    std::size_t most_held_ = 12'000;
    /// By expectation: how near, and the moment; the nearest first.
    std::vector<std::vector<std::pair<double, std::shared_ptr<Reached>>>> nearest_;
};

}  // namespace hollow_probe
