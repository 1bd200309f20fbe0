#include "report/live/live_survey.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>

#include "hollow_probe/report/sheet_text.hpp"
#include "hollow_probe/study/tune.hpp"
#include "report/page_data.hpp"
#include "verify/survey_plan.hpp"

namespace hollow_probe {

/// Truths of one level, for all rigs on it.
template <int D>
struct LiveSurvey<D>::Kept {
    const Level<D>* level = nullptr;
    KeptTruths<D> truths;
    const Rig<D>* before = nullptr;  // whose verdicts these are
    Json of_before;
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

namespace {

/// How the first map looks at a level, whatever rig is on it: at the same places each time, so that truths
/// are found once. `columns` for all facings.
template <int D>
double coarse_spacing(const Level<D>& level, double columns, double narrowest) {
    double ground = 1.0;
    const Vec<D> size = level.bounds().size();
    double across = 0.0;
    for (int axis = 0; axis < D; ++axis) {
        const bool along_up = std::abs(level.up()[axis]) > 0.9;
        if (along_up) continue;
        across = std::max(across, size[axis]);
        ground *= std::max(size[axis], narrowest);
    }
    const double wanted = D == 2 ? ground / columns : std::sqrt(ground / columns);
    // In powers of two, so that a facing more or less changes nothing.
    return across * std::exp2(std::ceil(std::log2(std::max(wanted, 0.25 * narrowest) / across)));
}

template <int D>
double narrowest_of(const Rig<D>& rig) {
    double narrowest = infinity;
    for (const Stance<D>& stance : rig.body.stances) {
        const Vec<D> size = stance.shape.bounds().size();
        narrowest = std::min(narrowest, D == 2 ? size[0] : std::min(size[0], size[D - 1]));
    }
    return narrowest;
}

/// Closer than a coarse look, by powers of two, as far as the budget goes.
template <int D>
double closer_spacing(double spacing, std::size_t judged, double narrowest, std::size_t budget) {
    const auto poses = static_cast<double>(std::max<std::size_t>(judged, 1));
    for (double closer = 2.0; spacing > 0.5 * narrowest && closer <= 4096.0 &&
                              poses * std::pow(closer, D - 1) < static_cast<double>(budget);
         closer *= 2.0)
        spacing *= 0.5;
    return spacing;
}

}  // namespace

template <int D>
void LiveSurvey<D>::carry_out(const LiveTask<D>& task) {
    constexpr std::size_t much = std::size_t{192} << 20U;
    constexpr MostMarks marks = {40'000, 30'000};
    if (kept_->level != task.level.get() || kept_->truths.bytes() > much) {
        kept_->truths = KeptTruths<D>();
        kept_->level = task.level.get();
        kept_->before = nullptr;
    }
    using Clock = std::chrono::steady_clock;
    const auto began = Clock::now();
    const auto milliseconds = [&] {
        return std::chrono::duration_cast<std::chrono::milliseconds>(Clock::now() - began).count();
    };
    SurveyOptions options;
    options.threads = options_.threads;
    options.explain = false;
    options.stop = [&] { return is_old(task); };
    const auto tell_survey = [&](const char* what, const Survey<D>& survey, bool whole) {
        Json data = survey_data<D>(*task.level, *task.rig, survey, task.names, marks);
        data["whole"] = whole;
        data["milliseconds"] = milliseconds();
        for (std::size_t i = 0; i < survey.fixes.size(); ++i)
            data["fixes"][i]["can_be_made"] = static_cast<bool>(survey.fixes[i].apply);
        tell(task, what, std::move(data));
    };
    // Coarsely first, over the whole level, a few columns beside its corners.
    constexpr double coarse_columns = 400.0;
    const double narrowest = narrowest_of<D>(*task.rig);
    const auto facings = static_cast<double>(facings_of<D>(*task.level, *task.rig, options).size());
    options.spacing = coarse_spacing<D>(*task.level, coarse_columns / facings, narrowest);
    options.border_fraction = 0.25;
    options.most_corner_columns = 200;
    const Survey<D> coarse = survey<D>(*task.level, *task.rig, options, kept_->truths);
    tell_survey("verdicts", coarse, false);
    const SurveyOptions coarsely = options;
    options.spacing = closer_spacing<D>(options.spacing, coarse.judged, narrowest, options_.budget);
    options.border_fraction = D == 2 ? 1.0 / 32.0 : 0.25;
    options.most_corner_columns = options_.budget / 16;
    const Survey<D> map = survey<D>(*task.level, *task.rig, options, kept_->truths);
    tell_survey("verdicts", map, true);
    if (kept_->before != task.before.get()) {
        // As it was opened it is the rig itself.
        const Survey<D> other =
            task.before == task.rig ? map : survey<D>(*task.level, *task.before, options, kept_->truths);
        kept_->before = task.before.get();
        kept_->of_before = survey_data<D>(*task.level, *task.before, other, task.names, {0, 0});
    }
    tell(task, "before", kept_->of_before);
    GaugeOptions gauging;
    gauging.threads = options_.threads;
    tell(task, "sheet", sheet_data<D>(gauge<D>(*task.rig, gauging)));
    // Advice from the coarse look first, which is there sooner where much is wrong.
    constexpr std::size_t much_is_wrong = 2'000;
    if (map.wrong.poses() > much_is_wrong) advise(task, coarsely, 2, tell_survey);
    advise(task, options, 4, tell_survey);
}

template <int D>
void LiveSurvey<D>::advise(const LiveTask<D>& task, SurveyOptions options, std::size_t most_tried,
                           const TellSurvey& tell_survey) {
    options.explain = true;
    options.most_tried = most_tried;
    Survey<D> advice = survey<D>(*task.level, *task.rig, options, kept_->truths);
    if (is_old(task)) return;
    {
        const std::lock_guard lock(mutex_);
        advice_ = advice;
        advised_ = task;
    }
    tell_survey("advice", advice, true);
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
