// What a rig that remembers says over the heights of a column.
#pragma once

#include <map>
#include <memory>

#include "verify/column_heights.hpp"
#include "verify/hearing.hpp"
#include "verify/stretches.hpp"
#include "verify/tellers.hpp"

namespace hollow_probe {

/// A column, and those that the body came by on its way to it, a tick apart. What probes read there is found
/// once for each of these, as stretches of heights, and looked up for each tick of each way. For one thread.
template <int D>
class RememberedColumn {
  public:
    /// `of_probes` and `of_body` feel; `foot` is the column's point at height 0.
    RememberedColumn(const Planned<D>& planned, std::size_t facing, const Feelers<D>& of_probes,
                     const Feelers<D>& of_body, const Tellers<D>& tellers, const HeightSpan& whole,
                     const Vec<D>& foot, double tall);

    /// Heights at which, while signals remember, something was felt beside this column, apart and ascending.
    [[nodiscard]] std::vector<HeightSpan> busy();
    /// The heights within a span at which what is said may change, in no order. `rests`: of this column.
    [[nodiscard]] std::vector<double> candidates(const HeightSpan& within, const std::vector<double>& rests);
    /// What is said at a height, so far above what the body rests on.
    [[nodiscard]] SignalSet at(double height, double above_rest);
    /// How often the level was asked.
    [[nodiscard]] std::size_t asked() const { return asked_; }

  private:
    /// What is read at one anchor, by the probes that matter so many ticks back.
    struct Passed {
        ReadingSet on;                      // zones as if they kept the set
        std::vector<std::uint32_t> inside;  // of each zone that does not the solids in it, after their number
        std::uint64_t met = 0;              // see Tellers

        bool reads_as(const Passed& other) const { return on == other.on && inside == other.inside; }
        bool operator==(const Passed& other) const { return reads_as(other) && met == other.met; }
    };
    struct Line {
        std::vector<HeightSpan> clipped;         // where the body does not fit
        std::vector<HeightSpan> busy;            // heights at which something is felt
        std::vector<Stretch<Passed>> stretches;  // over all heights at which anything is felt
    };
    class Ground;

    const Line& line(std::size_t ticks_back);
    [[nodiscard]] Vec<D> foot_of(std::size_t ticks_back) const {
        return foot_ - static_cast<double>(ticks_back) * aside_;
    }
    Line found(std::size_t ticks_back);
    /// Whether what a probe reads so many ticks back does.
    [[nodiscard]] bool matters(std::size_t probe, std::size_t ticks_back) const;
    Passed ask(const Vec<D>& anchor, std::size_t ticks_back);
    double to_rest(std::size_t ticks_back, double height);
    /// Puts the bits of the zones that remember, of those read before the move or of the others.
    void take_zones(const Passed& there, bool before_move, bool jumps, RigMemory& memory,
                    ReadingSet& on) const;

    const Planned<D>& s_;
    std::size_t facing_;
    const MountedRig<D>& mounted_;
    const Feelers<D>& of_probes_;
    const Feelers<D>& of_body_;
    const Tellers<D>& tellers_;
    HeightSpan whole_;
    Vec<D> foot_;
    double tall_;
    Vec<D> aside_ = Vec<D>::zero();   // of a stride, across up
    double rise_ = 0.0;               // … along up
    std::vector<ReadingSet> about_;   // by probe: all bits that depend on it
    ReadingSet before_move_;          // the bits of probes that are read before the move
    std::vector<std::size_t> zones_;  // probes that are zones and do not keep the set
    std::vector<std::unique_ptr<const Line>>
        lines_;  // by ticks back; one for all where the way leads along up
    std::map<std::pair<std::size_t, long long>, double> to_rests_;  // by ticks back and height
    std::vector<Reading<D>> readings_;
    std::vector<double> rests_;
    std::size_t asked_ = 0;
};

extern template class RememberedColumn<2>;
extern template class RememberedColumn<3>;

}  // namespace hollow_probe
