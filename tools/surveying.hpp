// A survey and all that may be asked for of it, whether it is made at once or of parts.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "common.hpp"
#include "hollow_probe/verify/kept_truths.hpp"

namespace hollow_probe::tool {

struct SurveyWanted {
    CommonOptions common;
    std::string level;  // paths
    std::string rig;
    std::string allow = "missed=0,false=0";
    std::string before;
    std::string write_cure;
    std::string cure;
    std::string write_fixed;
    std::string sarif;
    std::vector<std::size_t> fixes;
};

/// All of it but files in, what is common to all commands, and how closely it looks.
void add_survey_outputs(Command& command, SurveyWanted& wanted);

/// Refuses what cannot be written, or is not understood, before any work.
void check_wanted(const SurveyWanted& wanted);

/// Refuses what only a whole survey has; `why` begins the message.
void refuse_of_survey(const SurveyWanted& wanted, const std::string& why);

/// Surveys, writes, prints. `beside` is called when everything is written. Returns the exit code.
template <int D>
int survey_and_tell(const SurveyWanted& wanted, const Level<D>& level, const Rig<D>& rig,
                    SurveyOptions options, KeptTruths<D>& kept, const std::function<void()>& beside = {});

}  // namespace hollow_probe::tool
