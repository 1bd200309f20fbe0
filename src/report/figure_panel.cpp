// What a figure says in words beside its drawings.
#include "report/figure_drawer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "report/words.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {

namespace {

std::string words_for(CauseKind cause) {
    std::string words = name_of(cause);
    std::replace(words.begin(), words.end(), '_', ' ');
    return words;
}

}  // namespace

template <int D>
void FigureDrawer<D>::draw_panel(const Rect& rect) {
    double y = rect.y + 12;
    const double limit = rect.y + rect.height - legend_height(rect.width);
    const auto say = [&](const std::string& text, double size, Color color, double indent = 0.0) {
        for (const std::string& line : canvas_.lines(text, size, rect.width - indent)) {
            if (y > limit) return;
            canvas_.text({rect.x + indent, y}, line, size, color);
            y += size + 5;
        }
    };
    if (scene_.finding) {
        draw_mark(canvas_, scene_.finding->verdict, {rect.x + 7, y - 5}, 6.0);
        canvas_.text({rect.x + 22, y}, "Worst finding, " + scene_.finding->id, 13, ink, Align::left, true);
        y += 19;
        say(finding_sentence<D>(*scene_.rig, *scene_.finding), 12.5, ink);
        y += 6;
    }
    if (read_) {
        say_pose(say);
        y += 4;
        say_readings(rect, y, limit, say);
        y += 4;
        say_signals(rect, y, limit);
    }
    if (scene_.survey && scene_.survey->findings.empty() && !scene_.survey->signals.empty()) {
        y += 8;
        say("No finding: every signal agrees with truth at every pose judged (" +
                std::to_string(scene_.survey->judged) + ").",
            12.5, ink);
    }
    if (!scene_.notes.empty()) {
        y += 12;
        canvas_.text({rect.x, y}, scene_.notes_title, 12.5, ink, Align::left, true);
        y += 20;
        for (const SceneNote<D>& note : scene_.notes) {
            if (y > limit - 17) break;
            draw_mark(canvas_, note.verdict, {rect.x + 7, y - 4}, 5.0);
            say(note.text, 12, ink, 22);
            y += 3;
        }
    }
    if (scene_.survey) list_fixes(rect, y, say);
    if (scene_.survey && scene_.survey->findings.size() > 1) list_findings(rect, y + 8, limit);
    draw_legend(rect);
}

template <int D>
template <class Say>
void FigureDrawer<D>::list_fixes(const Rect& rect, double& y, Say say) {
    constexpr std::size_t most = 3;
    const auto& survey = *scene_.survey;
    if (survey.fixes.empty()) return;
    y += 6;
    canvas_.text({rect.x, y}, "What to change, best first", 12.5, ink, Align::left, true);
    y += 18;
    for (std::size_t i = 0; i < std::min(most, survey.fixes.size()); ++i) {
        const Fix<D>& fix = survey.fixes[i];
        say(fmt::format("{}  {}{}", i + 1, change_text(fix.change),
                        fix.after ? ": " + promise_text(survey.wrong, *fix.after) : std::string()),
            12, ink);
    }
}

template <int D>
void FigureDrawer<D>::list_findings(const Rect& rect, double y, double limit) {
    const auto& findings = scene_.survey->findings;
    if (y + 30 > limit) return;
    canvas_.text({rect.x, y}, fmt::format("All {} findings, worst first", findings.size()), 12.5, ink,
                 Align::left, true);
    y += 20;
    for (std::size_t i = 0; i < findings.size(); ++i) {
        if (y + 17 > limit && i + 1 < findings.size()) {
            canvas_.text({rect.x + 22, y}, fmt::format("… and {} more", findings.size() - i), 12, faint);
            return;
        }
        const Finding<D>& finding = findings[i];
        draw_mark(canvas_, finding.verdict, {rect.x + 7, y - 4}, 5.0);
        std::string text = fmt::format("{}  {} poses  {}", finding.id, finding.count,
                                       words_for(finding.causes.front().cause));
        if (!finding.solid.empty()) text += "  \"" + finding.solid + "\"";
        if (several_signals()) text += ", " + scene_.rig->signals[finding.signal].name;
        if (!finding.reached) text += ", not reached from a start";
        canvas_.text({rect.x + 22, y}, canvas_.fitted(text, 12, rect.width - 22), 12, ink);
        y += 17;
    }
}

template <int D>
template <class Say>
void FigureDrawer<D>::say_pose(Say say) {
    const Pose<D>& pose = *scene_.pose;
    std::string text = "Body at " + point_text<D>(pose.anchor) + ", heading " + point_text<D>(pose.heading) +
                       ", " + scene_.rig->body.stances[pose.stance].name;
    if (scene_.finding != nullptr)
        text += state_words<D>(scene_.survey->facings, scene_.survey->facings[scene_.finding->worst.facing]);
    say(text, 12.5, body_color);
}

template <int D>
template <class Say>
void FigureDrawer<D>::say_readings(const Rect& rect, double& y, double limit, Say say) {
    const double indent = read_->readings.size() < 10 ? 18.0 : 26.0;
    std::string elsewhere;
    for (std::size_t i = 0; i < read_->readings.size() && y <= limit; ++i) {
        if (!read_->mounted.probes[i].mounted) {
            elsewhere += (elsewhere.empty() ? "" : ", ") + ('"' + scene_.rig->probes[i].name + '"');
            continue;
        }
        canvas_.text({rect.x, y}, std::to_string(i + 1), 12.5, probe_color, Align::left, true);
        say(read_->words(i), 12.5, ink, indent);
    }
    if (!elsewhere.empty()) say("Not mounted in this stance: " + elsewhere + ".", 12, faint, indent);
}

template <int D>
void FigureDrawer<D>::say_signals(const Rect& rect, double& y, double limit) {
    const PlacedBody<D> body = placed_body<D>(read_->mounted, scene_.pose->anchor);
    const bool clips = clip<D>(level_, body, scene_.rig->intent).on;
    for (std::size_t i = 0; i < scene_.rig->signals.size() && y <= limit; ++i) {
        const Signal& signal = scene_.rig->signals[i];
        if (!signal.claims) continue;
        const Pose<D>& pose = *scene_.pose;
        const auto question = question_of<D>(*scene_.rig, read_->mounted, i,
                                             {pose.heading, pose.velocity, pose.drive, pose.grounded},
                                             pose.anchor, level_.up());
        const TruthAnswer<D> truth =
            answer<D>(*signal.claims, level_, question, scene_.rig->intent, level_.bounds().size().norm());
        const bool on = read_->signals_on.has(i);
        SurveyPose<D> judged;
        judged.signals_on.put(0, on);
        judged.truths_on.put(0, truth.on);
        judged.undecided.put(0, !truth.decided);
        const Verdict verdict = scene_.judged ? scene_.judged->verdict(i) : judged.verdict(0);
        draw_mark(canvas_, verdict, {rect.x + 7, y - 4}, 6.0);
        const std::string text =
            fmt::format("{} is {}; truth: {}{} — {}", signal.name, on ? "on" : "off", truth.on ? "" : "no ",
                        name_of(signal.claims), words_for(verdict));
        canvas_.text({rect.x + 22, y}, canvas_.fitted(text, 13, rect.width - 22, true), 13, ink, Align::left,
                     true);
        y += 18;
        if (y > limit) return;
        std::string margin = signal.claims == Claim::ground
                                 ? truth.on ? "Truth would flip if touch shrank by " +
                                                  plain(truth.margin.distance) + ", or steepest_footing by " +
                                                  plain(truth.margin.degrees) + "°."
                                            : off_words(truth.margin)
                                 : margin_words(truth.margin);
        if (clips) margin += " The body clips here: the survey leaves such poses out.";
        canvas_.text({rect.x + 22, y}, canvas_.fitted(margin, 12, rect.width - 22), 12, faint);
        y += 19;
    }
}

template <int D>
std::string FigureDrawer<D>::margin_words(const Margin& margin) {
    std::string by;
    if (std::isfinite(margin.distance)) by = plain(margin.distance);
    if (std::isfinite(margin.degrees)) by += (by.empty() ? "" : ", or ") + plain(margin.degrees) + "°";
    return by.empty() ? "No small change would flip truth." : "Truth would flip by " + by + ".";
}

template <int D>
std::string FigureDrawer<D>::off_words(const Margin& margin) {
    if (std::isfinite(margin.degrees))
        return "What is touched is " + plain(margin.degrees) + "° too steep to be footing.";
    if (std::isfinite(margin.distance))
        return "The nearest footing is " + plain(margin.distance) + " beyond touch.";
    return "There is no footing below.";
}

template <int D>
void FigureDrawer<D>::draw_legend(const Rect& rect) {
    double x = rect.x;
    double y = rect.y + rect.height - legend_height(rect.width) + 20;
    const auto room_for = [&](double width) {
        if (x + width > rect.x + rect.width && x > rect.x) {
            x = rect.x;
            y += 20;
        }
    };
    std::set<std::uint32_t> layers;
    for (const Solid<D>& solid : level_.solids()) layers.insert(solid.layer);
    for (const std::uint32_t layer : layers) {
        const std::string name = canvas_.fitted(level_.layers()[layer], 11.5, 130);
        const double width = 28 + canvas_.text_width(name, 11.5) + 16;
        room_for(width);
        const Outline swatch = {{x, y - 10}, {x + 20, y - 10}, {x + 20, y + 2}, {x, y + 2}};
        fill_solid(swatch, layer, true);
        canvas_.text({x + 26, y}, name, 11.5, ink);
        x += width;
    }
    if (any_hidden_) {
        const std::string words = "hidden";
        const double width = 28 + canvas_.text_width(words, 11.5) + 16;
        room_for(width);
        canvas_.stroke({{x, y - 10}, {x + 20, y - 10}, {x + 20, y + 2}, {x, y + 2}}, true, faint, 0.9, true);
        canvas_.text({x + 26, y}, words, 11.5, ink);
        x += width;
    }
    const bool any_one_way =
        D == 2 && std::any_of(level_.solids().begin(), level_.solids().end(),
                              [](const Solid<D>& solid) { return solid.one_way.has_value(); });
    if (any_one_way) {
        const std::string words = "one-way";
        const double width = 18 + canvas_.text_width(words, 11.5) + 16;
        room_for(width);
        draw_arrow({x + 7, y - 4}, {0.0, -1.0}, 6.0);
        canvas_.text({x + 18, y}, words, 11.5, ink);
        x += width;
    }
    for (const Verdict verdict : {Verdict::missed_contact, Verdict::false_contact, Verdict::undecided,
                                  Verdict::forgiven, Verdict::true_contact, Verdict::true_clear}) {
        if (!shown_verdicts_.contains(verdict)) continue;
        const double width = 20 + canvas_.text_width(words_for(verdict), 11.5) + 16;
        room_for(width);
        draw_mark(canvas_, verdict, {x + 7, y - 4}, 5.0);
        canvas_.text({x + 18, y}, words_for(verdict), 11.5, ink);
        x += width;
    }
}

template void FigureDrawer<2>::draw_panel(const Rect&);
template void FigureDrawer<3>::draw_panel(const Rect&);

}  // namespace hollow_probe
