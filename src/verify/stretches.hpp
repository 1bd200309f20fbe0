// A function of height that is constant between steps, found from samples and by bisection.
#pragma once

#include <algorithm>
#include <limits>
#include <optional>
#include <vector>

#include "verify/turning_heights.hpp"

namespace hollow_probe {

/// Heights over which a state holds, the height at which it was seen, and the last such, if that was noted.
template <class State>
struct Stretch {
    HeightSpan span;
    State state;
    double seen_at = 0.0;
    double seen_to = -std::numeric_limits<double>::infinity();
};

/// Two heights closer together than they are found to, over this, are one candidate.
inline constexpr double candidate_parts = 64.0;

/// Heights between `span` that are told apart: its ends, and candidates between them that lie farther apart
/// than `same`; of more than `most`, every so many.
inline std::vector<double> edges_within(const HeightSpan& span, const std::vector<double>& candidates,
                                        double same, std::size_t most = 320) {
    const auto first = std::upper_bound(candidates.begin(), candidates.end(), span.low);
    const auto end = std::lower_bound(first, candidates.end(), span.high);
    std::vector<double> edges;
    edges.reserve(static_cast<std::size_t>(end - first) + 2);
    edges.push_back(span.low);
    for (auto at = first; at != end; ++at) {
        if (*at - edges.back() >= same && span.high - *at >= same) edges.push_back(*at);
    }
    const std::size_t inner = edges.size() - 1;
    if (inner > most) {
        const std::size_t step = (inner + most - 1) / most;
        std::size_t kept = 0;
        for (std::size_t i = 0; i < inner; i += step) edges[++kept] = edges[i + 1];
        edges.resize(kept + 1);
    }
    edges.push_back(span.high);
    return edges;
}

/// Finds the stretches of `ask(height) -> State`, whose states are compared by ==. Steps are found where
/// samples on both sides differ: exactly where they lie at an edge, else within `finest`.
template <class State, class Ask>
class StretchSearch {
  public:
    /// `takes_near`: whether a step is taken to be at an edge, too, that a sample lies so close to that what
    /// is between them is not told apart.
    StretchSearch(double finest, Ask& ask, bool takes_near = false)
        : finest_(finest), ask_(ask), takes_near_(takes_near) {}

    /// `edges`: at least the two ends. Between two edges parts(low, high) samples are taken, at least one. If
    /// for one of their states again(low, high, state) is more than 0, two more are taken, just inside of
    /// both edges, and further ones that part what is between in so many.
    template <class Parts, class Again>
    std::vector<Stretch<State>> run(const std::vector<double>& edges, Parts parts, Again again) {
        found_.clear();
        std::vector<std::pair<double, State>> seen;
        for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
            const double low = edges[i];
            const double high = edges[i + 1];
            const auto see = [&](double height) { seen.emplace_back(height, ask_(height)); };
            const int count = parts(low, high);
            seen.clear();
            for (int k = 0; k < count; ++k) see(low + (high - low) * (k + 0.5) / count);
            int further = 0;
            for (const auto& one : seen) further = std::max(further, again(low, high, one.second));
            if (further > 0 && high - low > finest_) {
                const double inset = std::min(0.25 * finest_, 0.125 * (high - low));
                see(low + inset);
                for (int k = 1; k < further; ++k) see(low + (high - low) * k / further);
                see(high - inset);
                std::sort(seen.begin(), seen.end(),
                          [](const auto& one, const auto& other) { return one.first < other.first; });
            }
            for (std::size_t k = 0; k < seen.size(); ++k)
                take(seen[k].first, seen[k].second, k == 0 ? std::optional(low) : std::nullopt);
        }
        found_.front().span.low = edges.front();
        found_.back().span.high = edges.back();
        return std::move(found_);
    }
    template <class Parts>
    std::vector<Stretch<State>> run(const std::vector<double>& edges, Parts parts) {
        return run(edges, parts, [](double, double, const State&) { return 0; });
    }

    /// Asks again in the middle of stretches, which may be found to be two.
    void look_again(std::vector<Stretch<State>>& stretches) {
        constexpr int most_found_late = 8;
        int found_late = 0;
        for (std::size_t i = 0; i < stretches.size() && found_late < most_found_late; ++i) {
            const double middle = 0.5 * (stretches[i].span.low + stretches[i].span.high);
            if (std::abs(middle - stretches[i].seen_at) < finest_) continue;
            const State there = ask_(middle);
            if (there == stretches[i].state) continue;
            ++found_late;
            i += insert(stretches, i, middle, there) - 1;
        }
    }

    /// Makes room for a state that was seen within a stretch where another one was taken to hold. Returns how
    /// many stretches took the place of that one.
    std::size_t insert(std::vector<Stretch<State>>& stretches, std::size_t number, double height,
                       const State& state) {
        const Stretch<State> whole = stretches[number];
        found_ = {{{whole.span.low, whole.span.low}, whole.state, whole.seen_at}};
        const auto around = [&](double low, const State& at_low, double high, const State& at_high) {
            last_ = low;
            search(low, at_low, high, at_high, std::nullopt);
        };
        if (height > whole.seen_at) {
            around(whole.seen_at, whole.state, height, state);
            if (whole.seen_to > height) around(height, state, whole.seen_to, whole.state);
        } else {
            found_ = {{{whole.span.low, whole.span.low}, state, height}};
            around(height, state, whole.seen_at, whole.state);
        }
        found_.back().span.high = whole.span.high;
        const std::size_t count = found_.size();
        const auto at = stretches.begin() + static_cast<std::ptrdiff_t>(number);
        stretches.insert(stretches.erase(at), found_.begin(), found_.end());
        return count;
    }

  private:
    void take(double height, const State& state, std::optional<double> guess) {
        if (found_.empty()) {
            found_.push_back({{height, height}, state, height});
        } else if (!(found_.back().state == state)) {
            search(last_, State(found_.back().state), height, state, guess);
        }
        found_.back().seen_to = height;
        last_ = height;
    }

    void search(double low, const State& at_low, double high, const State& at_high,
                std::optional<double> guess) {
        if (high - low <= finest_) {
            begin(guess.value_or(0.5 * (low + high)), at_high, high);
            return;
        }
        if (guess && *guess > low && *guess < high) {
            const double below = *guess - 0.5 * finest_;
            const double above = *guess + 0.5 * finest_;
            const bool is_near = below <= low || above >= high;
            if ((takes_near_ || !is_near) && (below <= low || ask_(below) == at_low) &&
                (above >= high || ask_(above) == at_high)) {
                begin(*guess, at_high, high);
                return;
            }
        }
        const double middle = 0.5 * (low + high);
        const State between = ask_(middle);
        if (between == at_low) {
            search(middle, at_low, high, at_high, std::nullopt);
        } else if (between == at_high) {
            search(low, at_low, middle, at_high, std::nullopt);
        } else {
            search(low, at_low, middle, between, std::nullopt);
            search(middle, between, high, at_high, std::nullopt);
        }
    }

    void begin(double height, const State& state, double seen_at) {
        found_.back().span.high = height;
        found_.push_back({{height, height}, state, seen_at});
    }

    double finest_;
    Ask& ask_;
    bool takes_near_;
    double last_ = 0.0;
    std::vector<Stretch<State>> found_;
};

}  // namespace hollow_probe
