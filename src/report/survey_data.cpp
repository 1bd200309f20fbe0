#include <fmt/format.h>

#include <algorithm>

#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "report/page_data.hpp"
#include "report/page_shapes.hpp"
#include "report/pose_data.hpp"
#include "report/words.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {
namespace {

/// What truth says at a finding's worst pose, and where.
template <int D>
void add_truth(const Finding<D>& finding, const PoseReading<D>& reading, Json& pose) {
    const Signal& signal = reading.rig.signals[finding.signal];
    const Pose<D>& at = reading.pose;
    const auto question =
        question_of<D>(reading.rig, reading.mounted, finding.signal,
                       {at.heading, at.velocity, at.drive, at.grounded}, at.anchor, reading.level.up());
    const TruthAnswer<D> truth = answer<D>(*signal.claims, reading.level, question, reading.rig.intent);
    const char* const claim = name_of(signal.claims);
    std::string words;
    if (finding.verdict == Verdict::missed_contact) {
        words = fmt::format("Truth: {}", claim);
        if (truth.piece)
            words +=
                fmt::format(", \"{}\"", reading.level.solids()[reading.level.solid_of(*truth.piece)].name);
        words += fmt::format("; \"{}\" says nothing and should be on here.", signal.name);
    } else {
        words = fmt::format("Truth: no {} here; \"{}\" is on and should be off.", claim, signal.name);
    }
    pose["truth_words"] = words;
    pose["truth"] = {{"at", numbers_of<D>(truth.on ? truth.point : reading.pose.anchor)},
                     {"verdict", static_cast<int>(finding.verdict)}};
}

Json cause_data(const CauseReport& cause) {
    Json json = {{"cause", name_of(cause.cause)},
                 {"probe", cause.probe},
                 {"parameter", cause.parameter},
                 {"now", cause.now},
                 {"needs", cause.needs},
                 {"by", cause.by},
                 {"cures", cause.cures},
                 {"cures_elsewhere", cause.cures_elsewhere},
                 {"adds_missed", cause.adds_missed},
                 {"adds_false", cause.adds_false},
                 {"with", Json::array()}};
    for (const CauseReport& further : cause.with) json["with"].push_back(cause_data(further));
    return json;
}

template <int D>
Json finding_data(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey,
                  const Finding<D>& finding, const SurveyNames& names) {
    const Facing<D>& facing = survey.facings[finding.worst.facing];
    std::optional<Level<D>> moved;
    if (level.has_paths()) moved = level.at(facing.seconds);
    PoseReading<D> reading(moved ? *moved : level, rig, facing.pose(finding.worst.anchor));
    reading.say_as(finding.worst);
    Json pose = pose_data<D>(reading);
    pose["words"] = fmt::format("Body at {}, heading {}, {}{}", point_text<D>(finding.worst.anchor),
                                point_text<D>(facing.heading), rig.body.stances[facing.stance].name,
                                state_words<D>(survey.facings, facing));
    add_truth<D>(finding, reading, pose);
    Json json = {
        {"id", finding.id},
        {"signal", finding.signal},
        {"verdict", name_of(finding.verdict)},
        {"stance", finding.stance},
        {"facing", finding.worst.facing},
        {"solid", finding.solid},
        {"count", finding.count},
        {"bounds", Json::array({numbers_of<D>(finding.bounds.low), numbers_of<D>(finding.bounds.high)})},
        {"sentence", finding_sentence<D>(rig, finding)},
        {"command", draw_command<D>(names.level, names.rig, rig, facing, finding.worst.anchor)},
        {"causes", Json::array()},
        {"fixes", finding.fixes},
        {"reached", finding.reached},
        {"pose", std::move(pose)}};
    for (const CauseReport& cause : finding.causes) json["causes"].push_back(cause_data(cause));
    return json;
}

/// The poses that get a mark: all wrong ones, or of many every so many, then right ones.
template <int D>
std::vector<const SurveyPose<D>*> marked_poses(const Survey<D>& survey, const MostMarks& most,
                                               std::size_t& right_kept_of) {
    std::vector<const SurveyPose<D>*> wrong;
    std::vector<const SurveyPose<D>*> right;
    for (const SurveyPose<D>& pose : survey.poses) {
        bool is_wrong = false;
        for (std::size_t s = 0; s < survey.signals.size(); ++s) {
            const Verdict verdict = pose.verdict(s);
            is_wrong = is_wrong || (verdict != Verdict::true_clear && verdict != Verdict::true_contact);
        }
        (is_wrong ? wrong : right).push_back(&pose);
    }
    const auto thin = [](std::vector<const SurveyPose<D>*>& poses, std::size_t left) {
        const std::size_t step = left == 0 ? poses.size() + 1 : (poses.size() + left - 1) / left;
        if (step <= 1) return std::size_t{1};
        std::size_t kept = 0;
        for (std::size_t i = 0; i < poses.size(); i += step) poses[kept++] = poses[i];
        poses.resize(kept);
        return step;
    };
    thin(wrong, most.wrong);
    right_kept_of = survey.right_kept_of * thin(right, most.all - wrong.size());
    right.insert(right.end(), wrong.begin(), wrong.end());
    return right;
}

}  // namespace

template <int D>
Json survey_data(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey, const SurveyNames& names,
                 const MostMarks& most) {
    Json json = {{"kind", "survey"},
                 {"name", file_name(names.rig)},
                 {"command", fmt::format("hollow-probe survey {} {}{}", shell_word(names.level),
                                         shell_word(names.rig), names.options)},
                 {"dimensions", D},
                 {"spacing", survey.spacing},
                 {"summary", scope_text<D>(rig, survey)},
                 {"untested", untested<D>(survey)},
                 {"measured", D == 2 ? "area" : "volume"},
                 {"stances", Json::array()},
                 {"bodies", Json::array()},
                 {"facings", Json::array()},
                 {"signals", Json::array()},
                 {"findings", Json::array()},
                 {"fixes", Json::array()}};
    for (const Fix<D>& fix : survey.fixes) {
        json["fixes"].push_back({{"change", change_text(fix.change)},
                                 {"promise", fix.after ? promise_text(survey.wrong, *fix.after) : ""},
                                 {"findings", fix.findings}});
    }
    if (survey.joint) {
        json["joint"] = {{"fixes", survey.joint->fixes},
                         {"promise", promise_text(survey.wrong, survey.joint->after)}};
    }
    for (const Stance<D>& stance : rig.body.stances) json["stances"].push_back(stance.name);
    for (const Facing<D>& facing : survey.facings) {
        // Where things that move are then.
        Json moved = Json::array();
        for (std::size_t i = 0; i < level.solids().size(); ++i) {
            if (const auto& path = level.solids()[i].path)
                moved.push_back(Json::array({i, numbers_of<D>(path->at(facing.seconds))}));
        }
        // Bodies are few, however many states there are.
        const MountedRig<D> mounted(rig, level, facing.stance, facing.heading);
        Json body = {{"shape", shape_data<D>(mounted.body.view())},
                     {"size", mounted.body.bounds().size().largest()}};
        const auto known = std::find(json["bodies"].begin(), json["bodies"].end(), body);
        const std::ptrdiff_t number = known - json["bodies"].begin();
        if (known == json["bodies"].end()) json["bodies"].push_back(std::move(body));
        json["facings"].push_back({{"stance", facing.stance},
                                   {"body", number},
                                   {"heading", numbers_of<D>(facing.heading)},
                                   {"velocity", numbers_of<D>(facing.velocity)},
                                   {"drive", numbers_of<D>(facing.drive)},
                                   {"grounded", facing.grounded},
                                   {"seconds", facing.seconds},
                                   {"words", state_words<D>(survey.facings, facing)},
                                   {"moved", moved}});
    }
    for (const SignalVerdicts& signal : survey.signals) {
        json["signals"].push_back({{"name", signal.name},
                                   {"claims", name_of(signal.claims)},
                                   {"poses", signal.poses},
                                   {"measure", signal.measure},
                                   {"helper", !signal.claims},
                                   {"precision", signal.precision()},
                                   {"recall", signal.recall()}});
    }
    for (const Finding<D>& finding : survey.findings)
        json["findings"].push_back(finding_data<D>(level, rig, survey, finding, names));
    std::size_t right_kept_of = 1;
    Packed anchors;
    Packed facings;
    Packed verdicts;
    const auto marked = marked_poses<D>(survey, most, right_kept_of);
    for (const SurveyPose<D>* pose : marked) {
        anchors.add<D>(pose->anchor);
        facings.add(pose->facing);
        for (std::size_t s = 0; s < survey.signals.size(); ++s)
            verdicts.add(static_cast<std::uint8_t>(pose->verdict(s)));
    }
    json["poses"] = {{"count", marked.size()},
                     {"kept_of", right_kept_of},
                     {"anchors", anchors.text()},
                     {"facings", facings.text()},
                     {"verdicts", verdicts.text()}};
    return json;
}

template Json survey_data<2>(const Level<2>&, const Rig<2>&, const Survey<2>&, const SurveyNames&,
                             const MostMarks&);
template Json survey_data<3>(const Level<3>&, const Rig<3>&, const Survey<3>&, const SurveyNames&,
                             const MostMarks&);

}  // namespace hollow_probe
