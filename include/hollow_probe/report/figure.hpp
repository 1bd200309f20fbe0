// Figures of a level, a body with its probes, and a survey's verdicts.
#pragma once

#include <optional>
#include <string>

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// A line of the panel, with the mark of a verdict, which stands over the level, too.
template <int D>
struct SceneNote {
    Verdict verdict = Verdict::missed_contact;
    std::string text;
    Vec<D> at = Vec<D>::zero();
};

/// What to draw. Level and rig must outlive the scene.
template <int D>
struct Scene {
    const Level<D>* level = nullptr;
    const Rig<D>* rig = nullptr;
    std::optional<Pose<D>> pose;          // where the body stands; the close-up shows it
    std::optional<SurveyPose<D>> judged;  // what the rig says there, where that depends on how it came
    const Survey<D>* survey = nullptr;    // its verdict marks are drawn over the level
    const Finding<D>* finding = nullptr;  // said in words beside the close-up
    std::string title;
    std::string notes_title;
    std::vector<SceneNote<D>> notes;  // said in the panel, as many as there is room for
};

/// An image of 1280 × 800: the level (3D: plan and side elevation, cut at the pose), a close-up of the body
/// with what each probe does, and a panel that says it in words. `file_name` must end in .svg or .png and
/// chooses the kind. Throws InvalidInput for another ending.
template <int D>
std::string draw_figure(const Scene<D>& scene, const std::string& file_name);

/// The figure of a survey: its verdicts over the level, and the body at the worst finding's worst pose.
template <int D>
std::string survey_figure(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey,
                          const std::string& level_name, const std::string& rig_name,
                          const std::string& file_name);

}  // namespace hollow_probe
