// Tuning: values of a rig's settings that are right, in the middle of what is right.
#pragma once

#include <array>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/rig/settings.hpp"
#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// A setting that may be otherwise.
struct FreeSetting {
    std::string path;  // see path_of(): "probe.sole.reach"
    /// From and to, inclusive; for choices nothing. Nothing for a number: as far as makes sense for its unit.
    std::optional<std::array<double, 2>> range;
};

template <int D>
struct TuneOptions {
    /// What may be otherwise; empty takes the settings, at most four, that the causes of findings name, those
    /// first that would gain most.
    std::vector<FreeSetting> free;
    double missed_weight = 1.0;  // of what is missed, beside what is false; > 0
    /// What is wrong by the body's size, as far as it is from where it would be right, counts one and so
    /// much; in proportion, up to three sizes. >= 0; 0: by measure alone.
    double severity_weight = 1.0;
    /// Promises beside the levels', as drills' expectations: how many a rig breaks. Fewer is always better
    /// than less wrong.
    std::function<std::size_t(const Rig<D>&)> broken;
    SurveyOptions survey;
    double held_part = 0.1;                // of the places, kept back from tuning; 0 to 0.5
    std::size_t most_tried = 10000;        // rigs tried, in all rounds, but for valleys begun and room
    bool tell_left = false;                // what is left wrong is explained, in TunedRig::left
    std::function<void(double)> progress;  // the part done, 0 to 1
};

/// A setting as it was and as it came to be.
struct TunedSetting {
    std::string path;
    std::string was;  // as in a rig file
    std::string is;
    double value = 0.0;  // of numbers
    /// Within which nothing gets worse, by more than 0.1 % of what is true or signalled, the other settings
    /// staying; NaN for choices.
    std::array<double, 2> alone{};
    /// … whatever the others are within theirs; part of `alone`.
    std::array<double, 2> together{};
    /// … another being at an end of its own `alone`, the rest staying.
    struct Beside {
        std::string other;
        double at = 0.0;
        std::array<double, 2> room{};
    };
    std::vector<Beside> beside = {};
};

template <int D>
struct TunedRig {
    Rig<D> rig;
    std::vector<TunedSetting> settings;
    Wrongness before;  // over all levels, surveyed whole
    Wrongness after;
    double weighed_before = 0.0;  // the same, by what tuning makes least
    double weighed_after = 0.0;
    Wrongness held_before;  // of that what was held back from tuning
    Wrongness held_after;
    std::size_t broken_before = 0;
    std::size_t broken_after = 0;
    std::size_t tried = 0;   // rigs
    std::size_t rounds = 0;  // of searching and surveying what was found
    /// The first level on which something is left wrong, with causes and cures: a survey of 50,000 poses at
    /// most.
    std::optional<Survey<D>> left = {};

    [[nodiscard]] bool better() const {
        return broken_after < broken_before ||
               (broken_after == broken_before && weighed_after < (1.0 - 1e-6) * weighed_before);
    }
    [[nodiscard]] bool right() const { return broken_after == 0 && after.poses() == 0; }
};

/// Searches the free settings for the least measure of missed and false contacts, weighed by how grave they
/// are, over all levels, and
/// of what is equally right takes the middle: the roundest numbers near the centre of the box within which
/// nothing changes.
///
/// The poses and truths of a survey are kept, and changed rigs judged at them: first over the whole ranges by
/// dividing rectangles (D. R. Jones, C. D. Perttunen, B. E. Stuckman, "Lipschitzian optimization without the
/// Lipschitz constant", 1993; the locally biased form of J. M. Gablonsky, C. T. Kelley, 2001), then near the
/// best by subspace-searching simplices (T. H. Rowan, "Functional stability analysis of numerical
/// algorithms", 1990), both by NLopt; then setting by setting. What was found is surveyed whole; where that
/// sees more wrong, its poses are added and the search goes on, up to four rounds. If nothing better is found
/// the rig stays.
///
/// Deterministic, for any number of threads. Throws InvalidInput for settings there are not, ranges out of
/// order or out of a setting's limits, no setting at all, and what survey() refuses; SurveyStopped when
/// `options.survey.stop` says so.
template <int D>
TunedRig<D> tune(const std::vector<const Level<D>*>& levels, const Rig<D>& rig,
                 const TuneOptions<D>& options);

/// The settings that the causes of a survey's findings name, at most `most`, by what they would gain.
/// `layers` are the level's.
template <int D>
std::vector<FreeSetting> named_by_causes(const std::vector<std::string>& layers, const Rig<D>& rig,
                                         const Survey<D>& survey, std::size_t most);

extern template TunedRig<2> tune<2>(const std::vector<const Level<2>*>&, const Rig<2>&,
                                    const TuneOptions<2>&);
extern template TunedRig<3> tune<3>(const std::vector<const Level<3>*>&, const Rig<3>&,
                                    const TuneOptions<3>&);
extern template std::vector<FreeSetting> named_by_causes<2>(const std::vector<std::string>&, const Rig<2>&,
                                                            const Survey<2>&, std::size_t);
extern template std::vector<FreeSetting> named_by_causes<3>(const std::vector<std::string>&, const Rig<3>&,
                                                            const Survey<3>&, std::size_t);

}  // namespace hollow_probe
