// Places of a level with their truths, at which changed rigs are judged again and again.
#pragma once

#include <array>
#include <functional>
#include <memory>
#include <vector>

#include "verify/nearest_other.hpp"
#include "verify/planned.hpp"

namespace hollow_probe {

/// What places stand for that several surveys might have chosen.
enum class Counted : std::uint8_t {
    shared,  // their part: the sum estimates the measure
    whole,   // all that each survey had them stand for: the sum is rather too great
};

/// What is wrong, by measure.
struct PlacesScore {
    double missed = 0.0;
    double falsely = 0.0;

    PlacesScore& operator+=(const PlacesScore& other) {
        missed += other.missed;
        falsely += other.falsely;
        return *this;
    }
};
inline PlacesScore operator*(double times, const PlacesScore& score) {
    return {times * score.missed, times * score.falsely};
}

template <class Archive>
void members(Archive& archive, PlacesScore& score) {
    archive(score.missed);
    archive(score.falsely);
}

/// The intervals of heights that a survey found, each looked at inside of its ends and every half body
/// between. A changed rig is asked at these looks, and halfway between two at which it says otherwise, so
/// that what is wrong changes gradually as the rig does. Rigs that remember are asked at the survey's own
/// poses alone. Borders across up are those of the rigs surveyed: add() the surveys of rigs that may win.
///
/// What several surveys might have chosen stands for as much less: each place counts one over all the chances
/// that it had to be chosen (E. Veach, L. Guibas, "Optimally combining sampling techniques for Monte Carlo
/// rendering", 1995: the balance heuristic), so that the sum estimates the measure whatever was added.
template <int D>
class JudgedPlaces {
  public:
    /// `held_part` of the places, in stretches of several columns, are held back: they are not among those
    /// judged. What is wrong by the body's size, as far as it is from where it would be right, counts
    /// 1 + `severity_weight`; in proportion, up to three sizes. The level and the rig must outlive this.
    JudgedPlaces(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options, KeptTruths<D>& kept,
                 double held_part, double severity_weight = 0.0);

    /// Poses of a survey of the rig itself, which comes first: of more right and wrong ones than these every
    /// so many, for all of them.
    void add(const Survey<D>& survey, std::size_t most_right, std::size_t most_wrong);
    /// … and of what is wrong in one of a changed rig, with the same options.
    void add_wrong(const Rig<D>& changed, const Survey<D>& survey, std::size_t most);

    /// What is wrong in a survey where it is held back.
    [[nodiscard]] Wrongness held_in(const Survey<D>& survey) const;

    /// What is wrong in a survey, weighed by how grave it is.
    [[nodiscard]] PlacesScore weighed_in(const Survey<D>& survey) const;

    /// How a rig is judged at the places.
    struct Asking {
        std::size_t one_in = 1;  // of so many places one is looked at, for all of them
        Counted counted = Counted::shared;
        /// Of what was found so far: whether it is enough, and the rest need not be looked at. Asked rarely.
        std::function<bool(const PlacesScore&)> is_enough = {};
    };
    /// What is wrong, weighed, of a rig that differs in settings of probes and signals alone.
    [[nodiscard]] PlacesScore score(const Rig<D>& changed, const Asking& asking = {}) const;

    /// The measure where truths are on, or signals of the rig as it is.
    [[nodiscard]] double concerned() const { return concerned_; }
    [[nodiscard]] std::size_t places() const { return intervals_.size(); }
    /// What rigs take at some of the places, on average: lines swept, volumes laid over the level, and pieces
    /// that are looked at for them.
    [[nodiscard]] double effort(const Rig<D>& changed) const;

  private:
    struct Look {
        double height = 0.0;  // from the pose
        ReadingSet probes_on;
    };
    struct Interval {
        SurveyPose<D> pose;
        double chance = 0.0;   // to have been chosen, of the survey it is from
        double chances = 0.0;  // … of all that were added
        std::size_t first_look = 0;
        std::size_t looks = 0;
        Bounds<D> around = {};               // what is in it is known; empty if nothing is
        std::vector<Bounds<D>> pieces = {};  // that are in it
        std::size_t same_as = 0;  // the number of the same interval of a facing that is alike, or its own
    };
    /// A changed rig as it is read at each facing.
    struct Changed;
    class Judging;
    /// Of what is wrong in a changed rig's survey one in so many was chosen, of all poses there were.
    struct Chosen {
        std::shared_ptr<const Changed> rig;
        double chance = 0.0;
    };

    [[nodiscard]] bool is_held(const Vec<D>& anchor) const;
    /// Nothing for a rig that has other states than the one it was changed from.
    [[nodiscard]] std::shared_ptr<const Changed> changed_to(const Rig<D>& rig) const;
    /// Every so many poses of a survey that are wrong, or that are not.
    void choose(const Survey<D>& survey, std::array<std::size_t, 2> every);
    /// Works out what is asked of the intervals from the `first` on, of a survey of this rig.
    void look_at(const Changed& surveyed, const Survey<D>& survey, std::size_t first);
    /// A survey tells only of what its own rig has wrong that it is undecided or forgiven: so may be what a
    /// changed rig has wrong there.
    void excuse_others(std::size_t number);
    /// The ends of an interval are known only to what heights are found to: the height given, near an end, or
    /// the nearest to it at which the rig surveyed and truth say what they say at the interval's pose.
    [[nodiscard]] double just_inside(const Changed& surveyed, std::size_t number, double height) const;
    [[nodiscard]] bool is_wrong(const SurveyPose<D>& pose) const;
    [[nodiscard]] std::size_t wrong_poses(const Survey<D>& survey) const;
    [[nodiscard]] SurveyPose<D> at(const Interval& interval, double height) const;
    /// What a box around an anchor passes over, from the lowest to the highest of an interval.
    [[nodiscard]] Bounds<D> passed_over(const Interval& interval, const Bounds<D>& box) const;
    /// A box around all that the rig's probes reach over an interval, with room beside, and the pieces in it,
    /// if they are few.
    void look_around(Interval& interval) const;
    /// From the `first` of the intervals on: which are the same in a facing that is alike.
    void find_same(std::size_t first);
    /// How often each interval counts for a changed rig: not at all where another one tells of it.
    [[nodiscard]] std::vector<double> times_of(const Changed& changed) const;
    [[nodiscard]] double weight_of(const NearestOther<D>& nearest, const SurveyPose<D>& pose,
                                   std::size_t signal) const;

    const Level<D>& level_;
    const Rig<D>& rig_;
    Planned<D> planned_;
    SurveyOptions options_;
    KeptTruths<D>& kept_;
    SignalSet judged_;
    std::size_t held_one_in_;  // stretches; 0: none
    double stretch_;
    double severity_weight_;
    double concerned_ = 0.0;
    std::array<double, 2> chances_{};  // of right and wrong poses of the rig itself
    std::vector<Chosen> chosen_;
    std::vector<Interval> intervals_;
    std::vector<float> weights_;  // by interval and signal: of a wrong verdict; empty: 1
    std::vector<Look> looks_;
};

extern template class JudgedPlaces<2>;
extern template class JudgedPlaces<3>;

}  // namespace hollow_probe
