#include "hollow_probe/verify/survey_part.hpp"

#include <algorithm>
#include <numeric>

#include "geometry/parallel.hpp"
#include "verify/alternatives.hpp"
#include "verify/cause_bytes.hpp"
#include "verify/column_bytes.hpp"
#include "verify/facing_columns.hpp"
#include "verify/rounds.hpp"

namespace hollow_probe {
namespace {

template <int D>
class Part {
  public:
    Part(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options, PartNumber part)
        : options_(options), part_(part), record_(part), planned_(level, rig, options, kept_) {
        planned_.record = &record_;
    }

    std::string run() {
        RoundPlan plan = rounds_of<D>(planned_, options_, true);
        while (!plan.is_last()) {
            begin(plan, true);
            const Samples<D> samples = take_samples<D>(planned_, {});
            effort_ = samples.effort;
            plan.next(count_of<D>(samples));
        }
        begin(plan, false);
        share_out();
        const RoundColumns<D> columns(planned_);
        while (facing_ < planned_.facings.size()) {
            if (planned_.is_first(facing_)) take(columns.of(facing_));
            ++facing_;
            if (options_.progress)
                options_.progress(0.9 * static_cast<double>(facing_) /
                                  static_cast<double>(planned_.facings.size()));
        }
        if (options_.explain) explain();
        if (options_.progress) options_.progress(1.0);
        return record_.to_bytes();
    }

  private:
    void begin(const RoundPlan& plan, bool whole) {
        lay_round<D>(planned_, plan, options_);
        record_.begin_round(spec_of<D>(planned_), whole);
    }

    /// Where along all facings' columns this part begins and ends, one facing after the other: with as much
    /// to ask there, by what was asked of the round before, as in any other part.
    void share_out() {
        if (effort_.empty()) effort_.resize(planned_.facings.size());
        std::vector<double> until = {0.0};
        for (const auto& of_facing : effort_) {
            // A column costs something even where nothing is asked.
            for (const double effort : of_facing) until.push_back(until.back() + effort + 1.0);
        }
        const auto place_of = [&](std::size_t part) {
            const double wanted = until.back() * static_cast<double>(part) / static_cast<double>(part_.of);
            const auto after = std::upper_bound(until.begin() + 1, until.end() - 1, wanted);
            const double from = *std::prev(after);
            const auto steps = static_cast<double>(std::prev(after) - until.begin());
            return (steps + (wanted - from) / (*after - from)) /
                   static_cast<double>(Samples<D>::effort_steps);
        };
        from_ = place_of(part_.number);
        to_ = place_of(part_.number + 1);
    }

    /// The columns of a facing that fall to this part, and what lies between them and the next ones.
    void take(const FacingColumns<D>& columns) {
        const auto number_at = [&](double place) {
            const double part = std::clamp(place - static_cast<double>(facing_), 0.0, 1.0);
            return static_cast<std::size_t>(std::llround(part * static_cast<double>(columns.count())));
        };
        const std::size_t begin = number_at(from_);
        const std::size_t end = number_at(to_);
        const std::size_t beyond =
            begin == end ? end : std::min(end + columns.stride(D - 2), columns.count());
        std::vector<DecidedColumn<D>> decided(beyond - begin);
        for_each_index(decided.size(), [&](std::size_t i) {
            planned_.stop_if_asked();
            decided[i] = columns.decide(begin + i);
        });
        std::vector<std::vector<DecidedColumn<D>>> further(end - begin);
        for_each_index(further.size(), [&](std::size_t i) {
            planned_.stop_if_asked();
            for (std::size_t axis = 0; axis + 1 < D; ++axis) {
                if (!columns.has_next(begin + i, axis)) continue;
                Between<D> way =
                    columns.between(begin + i, axis, decided[i], decided[i + columns.stride(axis)]);
                std::move(way.found.begin(), way.found.end(), std::back_inserter(further[i]));
            }
        });
        decided.resize(end - begin);
        further.push_back(std::move(decided));
        std::vector<std::size_t> rows;
        for (std::size_t row = part_.number; row < columns.row_count(); row += part_.of) rows.push_back(row);
        const std::size_t before = further.size();
        further.resize(before + rows.size());
        for_each_index(rows.size(), [&](std::size_t i) {
            planned_.stop_if_asked();
            further[before + i] = columns.decide_row(rows[i]);
        });
        if (!options_.explain) return;
        for (const auto& some : further) {
            for (const DecidedColumn<D>& column : some) note_wrong(column);
        }
    }

    void note_wrong(const DecidedColumn<D>& column) {
        const auto note = [&](const SurveyPose<D>& pose) {
            if ((pose.signals_on ^ pose.truths_on).none()) return;
            for (std::size_t facing = facing_; facing < planned_.facings.size(); ++facing) {
                if (planned_.first[facing] != facing_ || planned_.explaining[facing] != facing) continue;
                wrong_.push_back(pose);
                wrong_.back().facing = static_cast<std::uint16_t>(facing);
            }
        };
        for (const Interval<D>& interval : column.intervals) {
            note(interval.pose);
            for (const SurveyPose<D>& pose : interval.further) note(pose);
        }
    }

    void explain() {
        Alternatives<D> alternatives(planned_);
        for_each_index(wrong_.size(), [&](std::size_t i) {
            for (std::size_t signal = 0; signal < planned_.rig.signals.size(); ++signal) {
                const Verdict verdict = wrong_[i].verdict(signal);
                if (verdict != Verdict::missed_contact && verdict != Verdict::false_contact) continue;
                planned_.stop_if_asked();
                record_.put(cause_key<D>(wrong_[i], signal),
                            bytes_of(prove_causes<D>(alternatives, wrong_[i], signal)));
            }
        });
    }

    const SurveyOptions& options_;
    PartNumber part_;
    KeptTruths<D> kept_;
    WorkRecord record_;
    Planned<D> planned_;
    decltype(Samples<D>::effort) effort_;
    double from_ = 0.0;  // facings, and the part of the next one's columns
    double to_ = 0.0;
    std::size_t facing_ = 0;
    std::vector<SurveyPose<D>> wrong_;
};

}  // namespace

SurveyParts::SurveyParts(const std::vector<std::string>& parts) : found_(std::make_unique<Found>()) {
    for (const std::string& bytes : parts) {
        for (WorkRecord::Round& round : from_bytes<std::vector<WorkRecord::Round>>(bytes)) {
            auto known = std::find_if(found_->rounds.begin(), found_->rounds.end(),
                                      [&](const FoundRound& other) { return other.spec == round.spec; });
            if (known == found_->rounds.end())
                known = found_->rounds.insert(known, FoundRound{round.spec, {}});
            for (auto& [key, result] : round.results)
                known->results.emplace(std::move(key), std::move(result));
        }
    }
}

SurveyParts::~SurveyParts() = default;
SurveyParts::SurveyParts(SurveyParts&&) noexcept = default;
SurveyParts& SurveyParts::operator=(SurveyParts&&) noexcept = default;

template <int D>
std::string survey_part(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options,
                        PartNumber part) {
    if (part.number >= part.of) throw InvalidInput("a part's number must be less than that of parts");
    check(rig);
    const Rig<D> scouting = scouts_at_poses<D>(rig);
    return on_threads(options.threads, [&] { return Part<D>(level, scouting, options, part).run(); });
}

template std::string survey_part<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&, PartNumber);
template std::string survey_part<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&, PartNumber);

}  // namespace hollow_probe
