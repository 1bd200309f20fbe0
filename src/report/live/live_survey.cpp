#include "report/live/live_survey.hpp"

#include <algorithm>
#include <chrono>

#include "hollow_probe/report/sheet_text.hpp"
#include "hollow_probe/study/tune.hpp"
#include "report/page_data.hpp"

namespace hollow_probe {

/// Truths of one level, for all rigs on it.
template <int D>
struct LiveSurvey<D>::Kept {
    const Level<D>* level = nullptr;
    KeptTruths<D> truths;
    const Rig<D>* before = nullptr;  // of which the verdicts were told
};

namespace {

/// The lines of a data sheet in the words of its text.
template <int D>
Json sheet_data(const DataSheet<D>& sheet) {
    Json rows = Json::array();
    for (const SheetRow& row : sheet.rows) {
        const ResponseCurve& worst = row.curves[row.worst];
        rows.push_back({{"line", row.line},
                        {"signal", row.signal},
                        {"varies", row.axis.name},
                        {"measured", stretches_text(worst.on, row.axis)},
                        {"intended", stretches_text(worst.intended, row.axis)},
                        {"wrong", worst.wrong() > 0.0 ? wrong_text(worst, row.axis) : ""}});
    }
    return {{"stance", sheet.stance},
            {"rows", std::move(rows)},
            {"casts", sheet.cost.casts},
            {"overlaps", sheet.cost.overlaps},
            {"pieces", sheet.cost.pieces}};
}

}  // namespace

template <int D>
LiveSurvey<D>::LiveSurvey(const LiveOptions& options, Tell tell)
    : options_(options),
      tell_(std::move(tell)),
      kept_(std::make_unique<Kept>()),
      thread_([this] { work(); }) {}

template <int D>
LiveSurvey<D>::~LiveSurvey() {
    {
        const std::lock_guard lock(mutex_);
        ends_ = true;
        newest_ = ~std::size_t{0};
    }
    wake_.notify_all();
    thread_.join();
}

template <int D>
void LiveSurvey<D>::start(LiveTask<D> task) {
    {
        const std::lock_guard lock(mutex_);
        newest_ = task.revision;
        next_ = std::move(task);
        told_.clear();
    }
    wake_.notify_all();
}

template <int D>
void LiveSurvey<D>::tell(const LiveTask<D>& task, const char* what, Json data) {
    Json news = {{"tell", what}, {"revision", task.revision}, {"data", std::move(data)}};
    {
        const std::lock_guard lock(mutex_);
        if (is_old(task)) return;
        std::erase_if(told_, [&](const auto& one) { return one.first == what; });
        told_.emplace_back(what, news);
    }
    tell_(news);
}

template <int D>
std::vector<Json> LiveSurvey<D>::told() const {
    const std::lock_guard lock(mutex_);
    std::vector<Json> all;
    for (const auto& [what, news] : told_) all.push_back(news);
    return all;
}

template <int D>
void LiveSurvey<D>::work() {
    while (true) {
        LiveTask<D> task;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [&] { return ends_ || next_; });
            if (ends_) return;
            task = std::move(*next_);
            next_.reset();
        }
        try {
            carry_out(task);
        } catch (const SurveyStopped&) {
            continue;  // something newer is to be done
        } catch (const std::exception& error) {
            tell(task, "trouble", error.what());
        }
    }
}

template <int D>
void LiveSurvey<D>::carry_out(const LiveTask<D>& task) {
    constexpr std::size_t much = std::size_t{192} << 20U;
    constexpr MostMarks marks = {40'000, 30'000};
    if (kept_->level != task.level.get() || kept_->truths.bytes() > much) {
        kept_->truths = KeptTruths<D>();
        kept_->level = task.level.get();
        kept_->before = nullptr;
    }
    SurveyOptions options;
    options.threads = options_.threads;
    options.budget = options_.budget;
    options.explain = false;
    options.stop = [&] { return is_old(task); };
    const auto verdicts = [&](const Survey<D>& survey, bool whole) {
        Json data = survey_data<D>(*task.level, *task.rig, survey, task.names, marks);
        data["whole"] = whole;
        tell(task, "verdicts", std::move(data));
    };
    using Clock = std::chrono::steady_clock;
    const auto began = Clock::now();
    const Survey<D> quick = survey<D>(*task.level, *task.rig, options, kept_->truths,
                                      [&](const Survey<D>& round) { verdicts(round, false); });
    verdicts(quick, true);
    if (task.before && kept_->before != task.before.get()) {
        const Survey<D> other = survey<D>(*task.level, *task.before, options, kept_->truths);
        tell(task, "before", survey_data<D>(*task.level, *task.before, other, task.names, {0, 0}));
    }
    options.explain = true;
    options.budget.reset();
    options.most_tried = 4;
    Survey<D> advice = survey<D>(*task.level, *task.rig, options, kept_->truths);
    if (is_old(task)) return;
    Json data = survey_data<D>(*task.level, *task.rig, advice, task.names, marks);
    data["whole"] = true;
    data["milliseconds"] =
        std::chrono::duration_cast<std::chrono::milliseconds>(Clock::now() - began).count();
    for (std::size_t i = 0; i < advice.fixes.size(); ++i)
        data["fixes"][i]["can_be_made"] = static_cast<bool>(advice.fixes[i].apply);
    {
        const std::lock_guard lock(mutex_);
        advice_ = std::move(advice);
        advised_ = task;
    }
    tell(task, "advice", std::move(data));
    GaugeOptions gauging;
    gauging.threads = options_.threads;
    tell(task, "sheet", sheet_data<D>(gauge<D>(*task.rig, gauging)));
}

template <int D>
Rig<D> LiveSurvey<D>::fixed(std::size_t revision, std::size_t fix) const {
    const std::lock_guard lock(mutex_);
    if (!advised_ || advised_->revision != revision)
        throw InvalidInput("the advice is not of the rig as it is now: wait for it");
    if (fix >= advice_.fixes.size() || !advice_.fixes[fix].apply)
        throw InvalidInput("there is no fix of that number that changes the rig");
    return advice_.fixes[fix].apply(*advised_->rig);
}

template <int D>
std::vector<std::string> LiveSurvey<D>::named_by_causes() const {
    constexpr std::size_t most = 4;
    const std::lock_guard lock(mutex_);
    std::vector<std::string> paths;
    if (!advised_) return paths;
    for (const FreeSetting& free :
         hollow_probe::named_by_causes<D>(advised_->level->layers(), *advised_->rig, advice_, most))
        paths.push_back(free.path);
    return paths;
}

template class LiveSurvey<2>;
template class LiveSurvey<3>;

}  // namespace hollow_probe
