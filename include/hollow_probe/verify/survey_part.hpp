// A survey made in parts: by several machines, one after the other, or by some again.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// What was found of a survey by some of its parts.
///
///     std::vector<std::string> parts;
///     for (std::size_t i = 0; i < 4; ++i) parts.push_back(survey_part(level, rig, options, {i, 4}));
///     const SurveyParts found(parts);
///     SurveyOptions whole = options;
///     whole.parts = &found;
///     survey(level, rig, whole);  // what survey(level, rig, options) says, in less time
class SurveyParts {
  public:
    /// The bytes of parts, in any order, in the byte order of this machine: of the same level, rig, options
    /// and version of this library, or surveys go wrong; whoever sends them sees to that. Throws InvalidInput
    /// for bytes that are not whole.
    explicit SurveyParts(const std::vector<std::string>& parts);
    ~SurveyParts();
    SurveyParts(SurveyParts&&) noexcept;
    SurveyParts& operator=(SurveyParts&&) noexcept;

    struct Found;
    [[nodiscard]] const Found& found() const { return *found_; }

  private:
    std::unique_ptr<Found> found_;
};

/// One of `of` parts of a survey, numbered from 0.
struct PartNumber {
    std::size_t number = 0;
    std::size_t of = 1;
};

/// What falls to one part of survey(level, rig, options): the columns of a stretch of each facing's ground,
/// so that all parts cost about the same, and why verdicts are wrong there. Rounds before the last are looked
/// at whole, since they say how closely the last one looks: each part tells a share of them. Where a last
/// round misses its budget and is done again, parts know nothing of that.
/// Throws what survey() throws, and InvalidInput for a number that is not below `of`.
template <int D>
std::string survey_part(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options,
                        PartNumber part);

/// Thirty-two hexadecimal digits of all that a part depends on: the level, the rig and the options, but for
/// threads. Alike for those that are alike; see content_hash().
template <int D>
std::string survey_inputs(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options);

extern template std::string survey_part<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&, PartNumber);
extern template std::string survey_part<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&, PartNumber);
extern template std::string survey_inputs<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&);
extern template std::string survey_inputs<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&);

}  // namespace hollow_probe
