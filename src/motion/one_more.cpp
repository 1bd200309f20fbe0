#include "motion/one_more.hpp"

#include "hollow_probe/truth/answer.hpp"
#include "hollow_probe/truth/ground.hpp"

namespace hollow_probe {
namespace {

template <int D>
class OneMore {
  public:
    OneMore(const Playing<D>& playing, const TickRecord<D>& tick)
        : playing_(playing),
          actor_(playing.actor()),
          tick_(tick),
          size_(0.5 * bounds_of(actor_.mounted().body.view()).size().smallest()) {}

    [[nodiscard]] double wrong_tick(const std::string& signal, bool missed) const {
        const auto& signals = actor_.stage.rig.signals;
        double near = 0.0;
        for (std::size_t i = 0; i < signals.size(); ++i) {
            if (!signals[i].claims || (!signal.empty() && signals[i].name != signal)) continue;
            const auto answer_at = [&](const Vec<D>& where, Margins margins) {
                const auto question = question_of<D>(actor_.stage.rig, actor_.mounted(), i,
                                                     actor_.situation(), where, actor_.up());
                return answer<D>(*signals[i].claims, actor_.level(), question, actor_.intent(),
                                 margins == Margins::told ? size_ : 0.0, margins);
            };
            near = std::max(near, apart(i, !missed, missed, answer_at));
        }
        return near;
    }

    /// What permits jumps says otherwise than the ground under the body: all that lacks is the press.
    [[nodiscard]] double jump(bool refused) const {
        double near = 0.0;
        const auto ground_at = [&](const Vec<D>& where, Margins margins) {
            return ground<D>(actor_.level(), placed_body<D>(actor_.mounted(), where), actor_.intent(),
                             margins == Margins::told ? size_ : 0.0);
        };
        for (const BoundReflex& bound : actor_.stage.reflexes) {
            if (bound.reflex.kind != ReflexKind::permit_jump) continue;
            near = std::max(near, apart(bound.signal, refused == bound.reflex.when_off, refused, ground_at));
        }
        return near;
    }

    /// How far of the body's own length a tick takes it.
    [[nodiscard]] double tunnel(double tick_seconds) const {
        const double speed = tick_.velocity.norm();
        if (!(speed > 0.0)) return 0.0;
        const HullView<D> body = actor_.mounted().body.view();
        const auto [low, high] = extent_along(body, tick_.velocity / speed);
        return std::min(all_but_it, speed * tick_seconds / std::max(high - low + 2.0 * body.radius, 1e-9));
    }

  private:
    static constexpr double all_but_it = 0.95;

    [[nodiscard]] bool has_room(const Vec<D>& where) const {
        return !clip<D>(actor_.level(), placed_body<D>(actor_.mounted(), where), actor_.intent()).on;
    }

    /// How near to a place where a signal is `on` though the truth is `true_then`.
    template <class AnswerAt>
    [[nodiscard]] double apart(std::size_t signal, bool on, bool true_then, AnswerAt answer_at) const {
        const auto is_so = [&](const Vec<D>& where) {
            return answer_at(where, Margins::left_out).on == true_then &&
                   playing_.signals_at(where).has(signal) == on;
        };
        if (is_so(tick_.anchor)) return all_but_it;
        for (const double part : {0.1, 0.3, 1.0}) {
            for (int axis = 0; axis < D; ++axis) {
                for (const double side : {1.0, -1.0}) {
                    const Vec<D> shift = side * part * size_ * Vec<D>::unit(axis);
                    const Vec<D> beside = tick_.anchor + shift;
                    if (is_so(beside) && has_room(beside)) return all_but_it / (1.0 + part);
                }
            }
        }
        if (playing_.signals_at(tick_.anchor).has(signal) != on) return 0.0;
        return 0.4 * closeness(answer_at(tick_.anchor, Margins::told).margin);
    }

    /// A margin of half the body, or 30 degrees, is half way.
    [[nodiscard]] double closeness(const Margin& margin) const {
        constexpr double half_way_degrees = 30.0;
        const double far = std::min(margin.distance / size_, margin.degrees / half_way_degrees);
        return all_but_it / (1.0 + far);
    }

    const Playing<D>& playing_;
    const Actor<D>& actor_;
    const TickRecord<D>& tick_;
    double size_;
};

}  // namespace

template <int D>
double near_one_more(const Playing<D>& playing, const TickRecord<D>& tick, const Expectation& expected) {
    const OneMore<D> one(playing, tick);
    if (expected.kind != Expectation::Kind::most) return 0.0;
    if (expected.figure == "missed_ticks") return one.wrong_tick(expected.signal, true);
    if (expected.figure == "false_ticks") return one.wrong_tick(expected.signal, false);
    if (expected.figure == "refused_jumps") return one.jump(true);
    if (expected.figure == "unearned_jumps") return one.jump(false);
    if (expected.figure == "tunnels") return one.tunnel(playing.tick_seconds());
    return 0.0;
}

template double near_one_more<2>(const Playing<2>&, const TickRecord<2>&, const Expectation&);
template double near_one_more<3>(const Playing<3>&, const TickRecord<3>&, const Expectation&);

}  // namespace hollow_probe
