#include "report/live/live_room.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <tuple>

#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/drill_file.hpp"
#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/rig_text.hpp"
#include "hollow_probe/rig/differences.hpp"
#include "report/live/live_fields.hpp"
#include "report/live/live_pose.hpp"
#include "report/page_data.hpp"
#include "report/words.hpp"

namespace hollow_probe {
namespace {

std::string folder_of(const std::string& path) {
    return std::filesystem::path(path).parent_path().string();
}

std::string text_of(const Json& question, const char* key) {
    if (!question.contains(key) || !question[key].is_string())
        throw InvalidInput(fmt::format("'{}' is no text", key));
    return question[key].get<std::string>();
}

std::string text_or_nothing(const Json& question, const char* key) {
    return question.contains(key) ? text_of(question, key) : std::string();
}

std::size_t count_of(const Json& question, const char* key) {
    if (!question.contains(key) || !question[key].is_number_unsigned())
        throw InvalidInput(fmt::format("'{}' is no whole number of 0 or more", key));
    return question[key].get<std::size_t>();
}

template <int D>
const Level<D>& level_at(const Level<D>& level, double seconds, std::optional<Level<D>>& moved) {
    if (!level.has_paths() || seconds == 0.0) return level;
    return moved.emplace(level.at(seconds));
}

/// A name that no probe or signal has: "sole 2" beside "sole".
template <int D>
std::string free_name(const Rig<D>& rig, const std::string& wanted) {
    const auto taken = [&](const std::string& name) {
        const auto is_it = [&](const auto& thing) { return thing.name == name; };
        return std::any_of(rig.probes.begin(), rig.probes.end(), is_it) ||
               std::any_of(rig.signals.begin(), rig.signals.end(), is_it);
    };
    std::string name = wanted;
    for (int number = 2; taken(name); ++number) name = fmt::format("{} {}", wanted, number);
    return name;
}

/// A probe to begin with: from the middle of the body straight down to its feet and a little further.
template <int D>
Probe<D> new_probe(const Rig<D>& rig, const std::string& kind) {
    const Bounds<D> body = rig.body.stances.front().shape.bounds();
    const double height = body.high[1] - body.low[1];
    Probe<D> probe;
    probe.name = free_name<D>(rig, kind);
    probe.sees = rig.body.meets;
    const double radius = 0.25 * body.size().smallest();
    const RoundedHull<D> ball = RoundedHull<D>::ball(Vec<D>::zero(), radius);
    const Vec<D> middle = 0.5 * height * Vec<D>::unit(1);
    const double to_feet = 0.5 * height + rig.intent.touch;
    if (kind == "ray") {
        probe.of_kind = LineProbe<D>{.from = middle, .reach = to_feet};
    } else if (kind == "cast") {
        probe.of_kind = LineProbe<D>{.shape = ball, .from = middle, .reach = to_feet - radius};
    } else if (kind == "zone") {
        probe.of_kind = ZoneProbe<D>{ball};
    } else if (kind == "shift") {
        probe.of_kind = ShiftProbe<D>{.reach = rig.intent.touch};
    } else if (kind == "contact") {
        probe.of_kind = ContactProbe{};
    } else {
        throw InvalidInput("there is no kind of probe '" + kind +
                           "', expected ray, cast, zone, shift or contact");
    }
    return probe;
}

}  // namespace

template <int D>
LiveRoom<D>::LiveRoom(LiveFiles files, const LiveOptions& options, Level<D> level, Tell tell)
    : files_(std::move(files)),
      options_(options),
      tell_(std::move(tell)),
      level_(std::make_shared<const Level<D>>(std::move(level))),
      level_text_(read_file(files_.level, most_live_bytes)),
      history_(files_.rig, *level_),
      rig_(std::make_shared<const Rig<D>>(history_.rig())),
      before_name_(files_.before.empty() ? "as opened" : file_name(files_.before)),
      before_(files_.before.empty() ? rig_
                                    : std::make_shared<const Rig<D>>(load_rig<D>(files_.before, *level_))),
      tuning_(options.threads, tell_),
      hunting_(options.threads, tell_),
      surveying_(options, tell_) {
    if (!files_.drill.empty()) (void)load_drill<D>(files_.drill, *level_, *rig_);
    start_survey();
}

template <int D>
std::string LiveRoom<D>::page() const {
    const std::lock_guard lock(mutex_);
    const std::string title = file_name(files_.rig) + " on " + file_name(files_.level);
    std::vector<Bounds<D>> near;
    for (const StartPoint<D>& start : level_->starts()) {
        near.emplace_back();
        near.back().grow(start.at);
    }
    if (near.empty()) near.push_back(level_->bounds());
    return page_of(
        title, {{"format", "hollow-probe live 1"}, {"title", title}, {"scene", scene_data<D>(*level_, near)}},
        D == 3);
}

template <int D>
Json LiveRoom<D>::state() const {
    Json settings = Json::array();
    for (const Setting<D>& setting : settings_of<D>(*rig_, level_->layers(), 0.0)) {
        settings.push_back({{"path", path_of<D>(setting)},
                            {"number", setting.now.has_value()},
                            {"now", setting.text(*rig_)}});
    }
    return {{"tell", "rig"},
            {"revision", revision_},
            {"rig", rig_fields<D>(*rig_, *level_)},
            {"settings", std::move(settings)},
            {"text", history_.text()},
            {"file", file_name(files_.rig)},
            {"saved", history_.is_saved()},
            {"can_undo", history_.can_undo()},
            {"can_redo", history_.can_redo()},
            {"conflict", history_.in_conflict() ? Json(history_.in_file()) : Json(nullptr)},
            {"notice", notice_},
            {"before", before_name_}};
}

template <int D>
void LiveRoom<D>::start_survey() {
    surveying_.start({revision_, level_, rig_, before_, {files_.level, files_.rig, ""}});
}

template <int D>
void LiveRoom<D>::changed() {
    rig_ = std::make_shared<const Rig<D>>(history_.rig());
    ++revision_;
    tell_(state());
    start_survey();
}

template <int D>
Json LiveRoom<D>::answer(const Json& question) {
    static const std::array<std::pair<const char*, Answer>, 21> answers = {
        {{"hello", &LiveRoom::ask_hello},
         {"pose", &LiveRoom::ask_pose},
         {"edit", &LiveRoom::ask_edit},
         {"part", &LiveRoom::ask_part},
         {"text", &LiveRoom::ask_text},
         {"undo", &LiveRoom::ask_undo},
         {"redo", &LiveRoom::ask_redo},
         {"save", &LiveRoom::ask_save},
         {"take_theirs", &LiveRoom::ask_take_theirs},
         {"keep_mine", &LiveRoom::ask_keep_mine},
         {"before", &LiveRoom::ask_before},
         {"fix", &LiveRoom::ask_fix},
         {"tune", &LiveRoom::ask_tune},
         {"stop_tuning", &LiveRoom::ask_stop_tuning},
         {"take_tuned", &LiveRoom::ask_take_tuned},
         {"play", &LiveRoom::ask_play},
         {"ticks", &LiveRoom::ask_ticks},
         {"drill", &LiveRoom::ask_drill},
         {"hunt", &LiveRoom::ask_hunt},
         {"stop_hunting", &LiveRoom::ask_stop_hunting},
         {"write_hunted", &LiveRoom::ask_write_hunted}}};
    const std::string ask = text_of(question, "ask");
    const auto found =
        std::find_if(answers.begin(), answers.end(), [&](const auto& one) { return ask == one.first; });
    if (found == answers.end()) throw InvalidInput("there is no question '" + ask + "'");
    return (this->*found->second)(question);
}

template <int D>
Json LiveRoom<D>::ask_hello(const Json&) {
    Json starts = Json::array();
    const std::lock_guard lock(mutex_);
    for (const StartPoint<D>& start : level_->starts()) {
        starts.push_back({{"name", start.name},
                          {"at", numbers_of<D>(start.at)},
                          {"heading", numbers_of<D>(start.heading)}});
    }
    Json told = Json::array();
    for (Json& news : surveying_.told()) told.push_back(std::move(news));
    return {{"state", state()},
            {"starts", std::move(starts)},
            {"moves", level_->has_paths()},
            {"drill", files_.drill.empty() ? Json(nullptr) : Json(file_name(files_.drill))},
            {"record", files_.record.empty() ? Json(nullptr) : Json(files_.record)},
            {"told", std::move(told)}};
}

template <int D>
Json LiveRoom<D>::ask_pose(const Json& question) {
    std::shared_ptr<const Level<D>> level;
    std::shared_ptr<const Rig<D>> rig;
    std::shared_ptr<const Rig<D>> before;
    {
        const std::lock_guard lock(mutex_);
        level = level_;
        rig = rig_;
        before = before_;
    }
    const Json asked = question.value("pose", Json());
    const Json time = asked.is_object() ? asked.value("time", Json(0.0)) : Json(0.0);
    if (!time.is_number()) throw InvalidInput("'time' is no number");
    const double seconds = time.get<double>();
    std::optional<Level<D>> moved;
    const Level<D>& now = level_at<D>(*level, seconds, moved);
    Pose<D> pose = pose_from<D>(asked, *rig, level->up());
    if (question.value("rests", false)) pose = at_rest<D>(now, *rig, pose);
    Json json = {{"pose", pose_answer<D>(now, *rig, pose)}, {"before", nullptr}, {"moved", Json::array()}};
    if (question.value("beside", false) && pose.stance < before->body.stances.size())
        json["before"] = pose_answer<D>(now, *before, pose);
    for (std::size_t i = 0; i < level->solids().size(); ++i) {
        if (const auto& path = level->solids()[i].path)
            json["moved"].push_back(Json::array({i, numbers_of<D>(path->at(seconds))}));
    }
    return json;
}

template <int D>
void LiveRoom<D>::write_changes(const Rig<D>& before, const Rig<D>& after, const std::string& gesture) {
    const std::vector<FieldChange> changes = differences<D>(before, after);
    if (changes.empty()) return;
    const std::string text = with_changes(history_.text(), files_.rig, changes);
    // A change that the file would say otherwise is none.
    if (!differences<D>(after, rig_from_toml<D>(text, files_.rig, *level_)).empty())
        throw InvalidInput("the change cannot be written into the file: change its text");
    history_.change(text, gesture);
    changed();
}

template <int D>
Json LiveRoom<D>::ask_edit(const Json& question) {
    const std::lock_guard lock(mutex_);
    const Rig<D> after = with_field<D>(*rig_, text_of(question, "table"), text_or_nothing(question, "name"),
                                       text_of(question, "key"), question.value("value", Json()));
    write_changes(*rig_, after, text_or_nothing(question, "gesture"));
    return {{"revision", revision_}};
}

/// Adds, copies, removes or renames a probe or signal.
template <int D>
Json LiveRoom<D>::ask_part(const Json& question) {
    const std::lock_guard lock(mutex_);
    const std::string how = text_of(question, "how");
    const std::string table = text_or_nothing(question, "table");
    const std::string name = text_or_nothing(question, "name");
    std::string text = history_.text();
    std::string now = name;
    const auto of_name = [&](const auto& thing) { return thing.name == name; };
    if (how == "add") {
        Rig<D> alone;
        alone.probes = {new_probe<D>(*rig_, text_of(question, "kind"))};
        now = alone.probes.front().name;
        text = with_block(text, files_.rig, "probe", blocks_text<D>(alone));
    } else if (how == "copy" && table == "probe") {
        const auto probe = std::find_if(rig_->probes.begin(), rig_->probes.end(), of_name);
        if (probe == rig_->probes.end()) throw InvalidInput("there is no probe '" + name + "'");
        Rig<D> alone;
        alone.probes = {*probe};
        alone.probes.front().name = now = free_name<D>(*rig_, name);
        text = with_block(text, files_.rig, "probe", blocks_text<D>(alone));
    } else if (how == "remove" && (table == "probe" || table == "signal")) {
        const Rig<D> forgotten = without_mentions<D>(*rig_, name);
        const auto changes = differences<D>(*rig_, forgotten);
        text = without_block(text, files_.rig, table, name);
        if (!changes.empty()) text = with_changes(text, files_.rig, changes);
        now.clear();
    } else if (how == "rename" && (table == "probe" || table == "signal")) {
        now = text_of(question, "to");
        if (now.empty() || now.size() > 200) throw InvalidInput("a name is 1 to 200 letters long");
        text = renamed_in(text, files_.rig, table, name, now);
    } else {
        throw InvalidInput("'how' is none of add, copy, remove and rename, or not for that table");
    }
    history_.change(text, "");
    changed();
    return {{"revision", revision_}, {"name", now}};
}

template <int D>
Json LiveRoom<D>::ask_text(const Json& question) {
    const std::lock_guard lock(mutex_);
    const std::string text = text_of(question, "text");
    if (text.size() > most_live_bytes) throw InvalidInput("a rig file has 64 MiB at most");
    history_.change(text, text_or_nothing(question, "gesture"));
    changed();
    return {{"revision", revision_}};
}

template <int D>
Json LiveRoom<D>::ask_undo(const Json&) {
    const std::lock_guard lock(mutex_);
    if (!history_.can_undo()) throw InvalidInput("there is nothing to undo");
    history_.undo();
    changed();
    return {{"revision", revision_}};
}

template <int D>
Json LiveRoom<D>::ask_redo(const Json&) {
    const std::lock_guard lock(mutex_);
    if (!history_.can_redo()) throw InvalidInput("there is nothing to do again");
    history_.redo();
    changed();
    return {{"revision", revision_}};
}

template <int D>
Json LiveRoom<D>::ask_save(const Json&) {
    const std::lock_guard lock(mutex_);
    try {
        history_.save();
    } catch (const InputError&) {
        tell_(state());
        throw;
    }
    tell_(state());
    return {{"saved", files_.rig}};
}

template <int D>
Json LiveRoom<D>::ask_take_theirs(const Json&) {
    const std::lock_guard lock(mutex_);
    history_.take_theirs();
    changed();
    return {{"revision", revision_}};
}

template <int D>
Json LiveRoom<D>::ask_keep_mine(const Json&) {
    const std::lock_guard lock(mutex_);
    history_.keep_mine();
    tell_(state());
    return {{"revision", revision_}};
}

/// What the rig is held against: the text of another file, or the rig as it is now.
template <int D>
Json LiveRoom<D>::ask_before(const Json& question) {
    const std::lock_guard lock(mutex_);
    if (question.contains("text")) {
        const std::string text = text_of(question, "text");
        if (text.size() > most_live_bytes) throw InvalidInput("a rig file has 64 MiB at most");
        const std::string name = file_name(text_of(question, "name"));
        // A rig that it extends is looked up beside the rig.
        const std::string path = (std::filesystem::path(folder_of(files_.rig)) / name).string();
        before_ = std::make_shared<const Rig<D>>(rig_from_toml<D>(text, path, *level_));
        before_name_ = name;
    } else {
        before_ = rig_;
        before_name_ = fmt::format("as it was at change {}", revision_);
    }
    tell_(state());
    start_survey();
    return {{"before", before_name_}};
}

template <int D>
Json LiveRoom<D>::ask_fix(const Json& question) {
    const std::lock_guard lock(mutex_);
    write_changes(*rig_, surveying_.fixed(revision_, count_of(question, "number")), "");
    return {{"revision", revision_}};
}

namespace {

/// "probe.sole.reach", or {path, from, to}.
FreeSetting free_setting(const Json& json) {
    if (json.is_string()) return {json.get<std::string>(), {}};
    if (!json.is_object()) throw InvalidInput("'free' is no list of settings");
    FreeSetting setting{text_of(json, "path"), {}};
    if (json.contains("from") || json.contains("to")) {
        const auto end = [&](const char* key) {
            if (!json.contains(key) || !json[key].is_number())
                throw InvalidInput(fmt::format("'{}' of {} is no number", key, setting.path));
            return json[key].get<double>();
        };
        setting.range = {end("from"), end("to")};
    }
    return setting;
}

}  // namespace

/// With the lock held.
template <int D>
TuneOptions<D> LiveRoom<D>::tune_options(const Json& question) const {
    TuneOptions<D> options;
    const Json free = question.value("free", Json::array());
    if (!free.is_array()) throw InvalidInput("'free' is no list of settings");
    for (const Json& one : free) options.free.push_back(free_setting(one));
    if (options.free.empty()) {
        for (const std::string& path : surveying_.named_by_causes()) options.free.push_back({path, {}});
    }
    if (options.free.empty()) throw InvalidInput("no cause names a setting: choose some to be tuned");
    const auto settings = settings_of<D>(*rig_, level_->layers(), 0.0);
    for (const FreeSetting& one : options.free) (void)setting_named<D>(settings, one.path);
    const Json weight = question.value("missed_weight", Json(1.0));
    if (!weight.is_number() || !(weight.get<double>() > 0.0))
        throw InvalidInput("'missed_weight' is no number above 0");
    options.missed_weight = weight.get<double>();
    if (question.value("drill", false)) {
        if (files_.drill.empty()) throw InvalidInput("there is no drill whose promises could be kept");
        options.broken = [level = level_,
                          drill = load_drill<D>(files_.drill, *level_, *rig_)](const Rig<D>& rig) {
            PlayOptions<D> quietly;
            quietly.keep_ticks = false;
            return play<D>(*level, rig, drill, quietly).broken.size();
        };
    }
    return options;
}

template <int D>
Json LiveRoom<D>::ask_tune(const Json& question) {
    const std::lock_guard lock(mutex_);
    TuneOptions<D> options = tune_options(question);
    Json named = Json::array();
    for (const FreeSetting& one : options.free) named.push_back(one.path);
    tuning_.start(revision_, level_, rig_, std::move(options));
    return {{"free", std::move(named)}};
}

template <int D>
Json LiveRoom<D>::ask_stop_tuning(const Json&) {
    tuning_.stop();
    return Json::object();
}

template <int D>
Json LiveRoom<D>::ask_take_tuned(const Json&) {
    const std::lock_guard lock(mutex_);
    write_changes(*rig_, tuning_.found(revision_), "");
    return {{"revision", revision_}};
}

template <int D>
Json LiveRoom<D>::ask_play(const Json& question) {
    std::shared_ptr<const Level<D>> level;
    std::shared_ptr<const Rig<D>> rig;
    {
        const std::lock_guard lock(mutex_);
        level = level_;
        rig = rig_;
    }
    const std::string folder = drill_folder();
    const bool own = files_.drill.empty() || text_or_nothing(question, "by") == "standard";
    DrillText base = own ? standard_drill<D>(files_.level, files_.rig, *rig, folder)
                         : DrillText{read_file(files_.drill, most_live_bytes), files_.drill};
    if (own || question.contains("pose"))
        base.text =
            started_at<D>(base.text, *rig, pose_from<D>(question.value("pose", Json()), *rig, level->up()));
    const std::lock_guard lock(play_mutex_);
    play_.reset();
    play_.emplace(level, rig, std::move(base));
    return play_->begin();
}

template <int D>
Json LiveRoom<D>::ask_ticks(const Json& question) {
    std::shared_ptr<const Rig<D>> beside;
    if (question.value("beside", false)) {
        const std::lock_guard lock(mutex_);
        beside = before_;
    }
    const std::lock_guard lock(play_mutex_);
    if (!play_) throw InvalidInput("nothing is being played");
    return play_->ticks(count_of(question, "count"), question.value("cues", Json()), beside);
}

template <int D>
Json LiveRoom<D>::ask_drill(const Json& question) {
    const std::lock_guard lock(play_mutex_);
    if (!play_) throw InvalidInput("nothing is being played");
    const bool shortened = question.value("shortened", false);
    const bool writes = question.value("write", false);
    std::optional<std::size_t> to;
    if (question.contains("to")) to = count_of(question, "to");
    const std::string text = play_->written(drill_folder(), to, shortened);
    if (writes) write_drill(text);
    return {{"text", text}, {"written", writes ? Json(files_.record) : Json(nullptr)}};
}

template <int D>
std::string LiveRoom<D>::drill_folder() const {
    return folder_of(files_.record.empty() ? files_.rig : files_.record);
}

template <int D>
void LiveRoom<D>::write_drill(const std::string& text) const {
    if (files_.record.empty())
        throw InvalidInput("drills are written to the file that --record names, and there is none");
    write_file(files_.record, text);
}

/// Goes on from a tick of what is played, for some seconds more.
template <int D>
Json LiveRoom<D>::ask_hunt(const Json& question) {
    std::shared_ptr<const Level<D>> level;
    std::shared_ptr<const Rig<D>> rig;
    std::size_t revision = 0;
    {
        const std::lock_guard lock(mutex_);
        level = level_;
        rig = rig_;
        revision = revision_;
    }
    const Json more = question.value("seconds", Json(4.0));
    constexpr double most_seconds = 600.0;
    if (!more.is_number() || !(more.get<double>() > 0.0) || more.get<double>() > most_seconds)
        throw InvalidInput("'seconds' is no number above 0, 600 at most");
    const std::lock_guard lock(play_mutex_);
    if (!play_) throw InvalidInput("nothing is being played");
    std::optional<std::size_t> from;
    if (question.contains("from")) from = count_of(question, "from");
    Drill<D> drill = play_->played(from);
    const double kept = from == std::size_t{0} ? 0.0 : drill.seconds;
    drill.seconds = kept + more.get<double>();
    hunting_.start(revision, std::move(level), std::move(rig), std::move(drill), play_->base(),
                   drill_folder(), kept);
    return Json::object();
}

template <int D>
Json LiveRoom<D>::ask_stop_hunting(const Json&) {
    hunting_.stop();
    return Json::object();
}

template <int D>
Json LiveRoom<D>::ask_write_hunted(const Json&) {
    write_drill(hunting_.found());
    return {{"written", files_.record}};
}

template <int D>
void LiveRoom<D>::look_at_files() {
    const std::lock_guard lock(mutex_);
    std::string notice = notice_;
    std::string level_text;
    try {
        level_text = read_file(files_.level, most_live_bytes);
    } catch (const InputError&) {
        level_text = level_text_;  // on its way to another state
    }
    if (level_text != level_text_) {
        level_text_ = level_text;  // one that is refused is not read again until it changes
        try {
            AnyLevel level = load_level(files_.level);
            if (!std::holds_alternative<Level<D>>(level))
                throw InputError(files_.level + ":1:1: the level has other dimensions than it had");
            auto fresh = std::make_shared<const Level<D>>(std::move(std::get<Level<D>>(level)));
            history_.read_for(*fresh);
            level_ = std::move(fresh);
            std::vector<Bounds<D>> near(1, level_->bounds());
            tell_({{"tell", "level"}, {"data", scene_data<D>(*level_, near)}});
            notice.clear();
            notice_.clear();
            changed();
        } catch (const std::exception& error) {
            // Whatever is wrong with it: the bench goes on with what it has.
            notice = error.what();
        }
    }
    const auto standing = [&] {
        return std::tuple{history_.is_saved(), history_.in_conflict(), history_.in_file()};
    };
    const auto was = standing();
    switch (history_.look()) {
        case RigHistory<D>::Outside::taken_over:
            changed();
            break;
        case RigHistory<D>::Outside::conflict:
        case RigHistory<D>::Outside::same:
            if (standing() != was || notice != notice_) {
                notice_ = notice;
                tell_(state());
            }
            break;
    }
}

template class LiveRoom<2>;
template class LiveRoom<3>;

}  // namespace hollow_probe
