// The verdicts of a figure: marks, and the names of findings.
#include "report/figure_drawer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {

namespace {

int weight(Verdict verdict) {
    constexpr std::array<int, verdict_count> weights = {1, 4, 3, 0, 2, 1};
    return weights[static_cast<std::size_t>(verdict)];
}

}  // namespace

template <int D>
Verdict FigureDrawer<D>::worst_of(const SurveyPose<D>& pose) const {
    if (scene_.finding != nullptr) return pose.verdict(scene_.finding->signal);
    Verdict worst = Verdict::true_clear;
    for (std::size_t signal = 0; signal < scene_.survey->signals.size(); ++signal) {
        const Verdict verdict = pose.verdict(signal);
        if (weight(verdict) > weight(worst)) worst = verdict;
    }
    return worst;
}

template <int D>
bool FigureDrawer<D>::is_in_view(const View<D>& view, const SurveyPose<D>& pose) const {
    const bool elevation = D == 3 && view.away.dot(level_.up()) > -0.5;
    return !elevation || std::abs(view.depth(pose.anchor) - view.cut) <= 0.75 * scene_.survey->spacing;
}

template <int D>
void FigureDrawer<D>::draw_marks(const View<D>& view, double size) {
    struct Mark {
        Verdict verdict = Verdict::true_clear;
        Vec<2> at = Vec<2>::zero();
    };
    std::map<std::pair<int, int>, Mark> cells;
    const double cell = 1.6 * size;
    const Rect& f = view.frame;
    for (const SurveyPose<D>& pose : scene_.survey->poses) {
        if (!is_in_view(view, pose)) continue;
        const Vec<2> at = view.at(pose.anchor);
        if (at.x() < f.x || at.x() > f.x + f.width || at.y() < f.y || at.y() > f.y + f.height) continue;
        const std::pair key(static_cast<int>(at.x() / cell), static_cast<int>(at.y() / cell));
        const Mark mark{worst_of(pose), at};
        const auto [place, fresh] = cells.try_emplace(key, mark);
        if (!fresh && weight(mark.verdict) > weight(place->second.verdict)) place->second = mark;
    }
    for (const Verdict layer : {Verdict::true_clear, Verdict::true_contact, Verdict::forgiven,
                                Verdict::undecided, Verdict::false_contact, Verdict::missed_contact}) {
        for (const auto& [key, mark] : cells) {
            if (mark.verdict != layer) continue;
            shown_verdicts_.insert(layer);
            draw_mark(canvas_, layer, mark.at, size);
        }
    }
}

template <int D>
void FigureDrawer<D>::label_findings(const View<D>& view) {
    constexpr std::size_t most = 16;
    std::vector<Rect> taken;
    if (read_) {
        Bounds<2> box;
        for (const Vec<2>& p : view.page(shadow<D>(view, read_->mounted.body.view(), scene_.pose->anchor)))
            box.grow(p);
        // The body, and its name above or below.
        taken.push_back(
            {box.low.x() - 22.0, box.low.y() - 30.0, box.size().x() + 44.0, box.size().y() + 60.0});
    }
    const auto collides = [&](const Rect& a) {
        return std::any_of(taken.begin(), taken.end(), [&](const Rect& b) {
            return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;
        });
    };
    std::size_t count = 0;
    for (const Finding<D>& finding : scene_.survey->findings) {
        if (++count > most) return;
        if (!is_in_view(view, finding.worst)) continue;
        const Vec<2> at = view.at(finding.worst.anchor);
        const double width = canvas_.text_width(finding.id, 9.5) + 6.0;
        for (const double away : {-16.0, -30.0, 20.0, 34.0, -44.0, 48.0}) {
            const Rect& f = view.frame;
            const double left = std::clamp(at.x() - 0.5 * width, f.x + 3.0, f.x + f.width - width - 3.0);
            const Rect box{left, at.y() + away - 7.0, width, 13.0};
            const bool inside = at.x() > f.x && at.x() < f.x + f.width && box.y > f.y + 20.0 &&
                                box.y + box.height < f.y + f.height - 2.0;
            if (!inside || collides(box)) continue;
            taken.push_back(box);
            canvas_.line({at.x(), at.y() + (away < 0.0 ? -5.0 : 5.0)},
                         {at.x(), at.y() + away + (away < 0.0 ? 6.0 : -7.0)}, faint, 0.8);
            canvas_.rectangle(box, {1, 1, 1, 0.9});
            canvas_.text({box.x + 0.5 * width, box.y + 10.0}, finding.id, 9.5, ink, Align::middle);
            break;
        }
    }
}

template void FigureDrawer<2>::draw_marks(const View<2>&, double);
template void FigureDrawer<2>::label_findings(const View<2>&);
template void FigureDrawer<3>::draw_marks(const View<3>&, double);
template void FigureDrawer<3>::label_findings(const View<3>&);

}  // namespace hollow_probe
