// Changes tried where a survey judged: what each does to every signal there.
#pragma once

#include "verify/alternative.hpp"
#include "verify/samples.hpp"

namespace hollow_probe {

/// The intervals at which changes are tried, and what comes of it. Within an interval the truths are known,
/// so that only probes are read again: at its ends, in between, and where that changes.
template <int D>
class Trials {
  public:
    /// At `most_readings` poses, fewer where each is of many ticks: all that are wrong, if they are no more
    /// than half of that, and every so many of the others.
    Trials(const Planned<D>& planned, const Samples<D>& samples, std::size_t most_readings);

    /// What a change makes of one interval.
    struct Turned {
        SignalSet signals;     // that it turns somewhere in it
        double cured = 0.0;    // the measure it makes right, over all signals
        double spoiled = 0.0;  // … wrong

        bool operator==(const Turned&) const = default;
        template <class Archive>
        friend void members(Archive& archive, Turned& turned) {
            members(archive, turned.signals);
            archive(turned.cured);
            archive(turned.spoiled);
        }
    };
    /// What a change does: to the signals at all poses tried, and to all intervals.
    struct Outcome {
        std::vector<SignalSet> signals_on;  // by pose
        std::vector<Turned> intervals;
    };
    [[nodiscard]] Outcome outcome(const ProvenCause<D>& cause) const;

    /// What a change does to some of the intervals, those by which a number is sought.
    using About = std::vector<Turned>;
    [[nodiscard]] About about(const ProvenCause<D>& cause) const;
    /// … which has an amount between two others of which that is known: an interval that both do the same to
    /// is taken to be done that to by it, too.
    [[nodiscard]] About about_between(const ProvenCause<D>& cause, const About& one,
                                      const About& other) const;
    /// The measure cured and spoiled in all, over every signal, told from these intervals.
    [[nodiscard]] Turned total(const About& about) const;
    /// … what is cured less what is spoiled.
    [[nodiscard]] double gain(const About& about) const {
        const Turned all = total(about);
        return all.cured - all.spoiled;
    }

    /// What one more change gains, others having been made: where they turned a signal, too, it counts no
    /// more. What it spoils counts once: it is surveyed anew before it is advised.
    [[nodiscard]] double worth_after(const std::vector<const Outcome*>& made, const Outcome& outcome) const;

    /// What a change does in all: measures, and poses of any signal.
    struct Totals {
        double gain = 0.0;
        double spoils = 0.0;
        double cured = 0.0;  // poses
        double missed = 0.0;
        double falsely = 0.0;
    };
    [[nodiscard]] Totals totals_of(const Outcome& outcome) const;

    /// Fills in what a change does: to the poses of a finding of `signal`, `mine`, which stand for so many,
    /// and elsewhere.
    void count(const Outcome& outcome, const Totals& totals, std::size_t signal,
               const std::vector<std::size_t>& mine, std::size_t stands_for, CauseReport& report) const;
    /// … told from the finding's own poses and some of the others; `about` is the total of about().
    void count_about(const ProvenCause<D>& cause, const Turned& about, std::size_t signal,
                     const std::vector<std::size_t>& mine, std::size_t stands_for, CauseReport& report) const;

  private:
    /// Poses of one interval: numbers into poses_.
    struct Interval {
        std::size_t first = 0;
        std::size_t count = 0;
        double measure = 0.0;  // weighed
        std::size_t first_look = 0;
        std::size_t looks = 0;
        std::size_t same_as = 0;  // number of the same interval of a facing that is alike, or its own
    };
    /// A height within an interval, above its first pose, and the probes of the rig surveyed that are on
    /// there.
    struct Look {
        double height = 0.0;
        ReadingSet probes_on;

        template <class Archive>
        friend void members(Archive& archive, Look& look) {
            archive(look.height);
            members(archive, look.probes_on);
        }
    };
    using Changed = std::vector<Alternative<D>>;  // by facing

    void choose_poses(std::size_t most_readings);
    void choose_some(std::size_t most);
    void find_same();
    /// Those that are no other's same; all, where a changed rig tells headings apart.
    [[nodiscard]] std::vector<std::size_t> to_ask(const Changed* rigs) const;
    [[nodiscard]] std::vector<Look> look_into(const Interval& interval) const;
    [[nodiscard]] Look look_at(const Interval& interval, double height) const;
    [[nodiscard]] Changed changed(const ProvenCause<D>& cause) const;
    [[nodiscard]] SignalSet signals_at(const Changed& rigs, std::size_t pose) const;
    [[nodiscard]] Turned turn_some(const Changed& rigs, std::size_t number) const;
    [[nodiscard]] Turned turn(const Changed& rigs, const Interval& interval,
                              std::span<const SignalSet> at_poses) const;
    void add(std::size_t pose, SignalSet signals_on, double weight, Totals& totals) const;
    [[nodiscard]] bool cures(std::size_t pose, SignalSet signals_on, std::size_t signal) const;
    /// Poses of a finding.
    struct Mine {
        double all = 0.0;
        double cured = 0.0;
    };
    void fill_in(const Totals& totals, const Mine& mine, std::size_t stands_for, CauseReport& report) const;
    void add(const SurveyPose<D>& as_it_was, SignalSet signals_on, double measure, Turned& turned) const;
    /// Where a pose of the samples is among those tried.
    [[nodiscard]] std::optional<std::size_t> place_of(std::size_t pose) const;
    template <class Visit>
    void for_each_turned(const SurveyPose<D>& as_it_was, SignalSet signals_on, Visit visit) const;

    const Planned<D>& s_;
    const Samples<D>& samples_;
    std::vector<std::size_t> poses_;  // numbers of the samples' poses, ascending
    std::vector<double> weights_;     // how many of the survey's poses each stands for
    std::vector<Way<D>> ways_;        // to those poses, for rigs that remember
    std::vector<Interval> intervals_;
    std::vector<Look> looks_;
    std::vector<std::size_t> some_;  // numbers of the intervals that about() asks
    std::size_t coarse_ = 1;         // one of so many
};

extern template class Trials<2>;
extern template class Trials<3>;

}  // namespace hollow_probe
