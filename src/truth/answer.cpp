#include "hollow_probe/truth/answer.hpp"

#include "hollow_probe/truth/blocked.hpp"
#include "hollow_probe/truth/drop.hpp"
#include "hollow_probe/truth/fit.hpp"
#include "hollow_probe/truth/ledge.hpp"
#include "hollow_probe/truth/wall.hpp"

namespace hollow_probe {
namespace {

template <int D>
TruthAnswer<D> with_place(const Decision& decision, std::optional<std::uint32_t> piece, const Vec<D>& point) {
    TruthAnswer<D> result;
    static_cast<Decision&>(result) = decision;
    result.piece = piece;
    result.point = point;
    return result;
}

template <int D>
TruthAnswer<D> with_contact(const Decision& decision, const std::optional<Contact<D>>& contact) {
    TruthAnswer<D> result = with_place<D>(decision, {}, Vec<D>::zero());
    if (contact) {
        result.piece = contact->piece;
        result.point = contact->point;
    }
    return result;
}

}  // namespace

template <int D>
TruthAnswer<D> answer(Claim claim, const Level<D>& level, const TruthQuestion<D>& question,
                      const Intent& intent, double horizon, Margins margins) {
    const PlacedBody<D>& body = question.body;
    if (is_toward(claim) && question.toward.is_zero(0.0)) return {};
    const Vec<D>& toward = question.toward;
    switch (claim) {
        case Claim::ground: {
            const auto truth = ground<D>(level, body, intent, horizon);
            return with_contact<D>(truth, truth.contact);
        }
        case Claim::ceiling: {
            const auto truth = ceiling<D>(level, body, intent, horizon);
            return with_contact<D>(truth, truth.contact);
        }
        case Claim::wall: {
            const auto truth = wall<D>(level, body, toward, intent, margins, question.known);
            return with_contact<D>(truth, truth.contact);
        }
        case Claim::step: {
            const auto truth = step<D>(level, body, toward, intent, margins, question.known);
            return with_contact<D>(truth, truth.riser);
        }
        case Claim::drop: {
            const auto truth = drop<D>(level, body, toward, intent, horizon, margins, question.known);
            return with_place<D>(truth, {}, truth.on ? truth.edge : body.anchor);
        }
        case Claim::ledge: {
            const auto truth = ledge<D>(level, body, question.other, toward, intent, margins, question.known);
            return with_place<D>(truth, truth.on ? std::optional(truth.piece) : std::nullopt, truth.edge);
        }
        case Claim::headroom: {
            const auto truth = headroom<D>(level, body, question.other, intent, horizon);
            return with_place<D>(truth, truth.piece, body.anchor);
        }
        case Claim::blocked: {
            const auto truth = blocked<D>(level, body, toward, question.move, intent, horizon);
            return with_contact<D>(truth, truth.contact);
        }
    }
    return {};
}

template TruthAnswer<2> answer<2>(Claim, const Level<2>&, const TruthQuestion<2>&, const Intent&, double,
                                  Margins);
template TruthAnswer<3> answer<3>(Claim, const Level<3>&, const TruthQuestion<3>&, const Intent&, double,
                                  Margins);

}  // namespace hollow_probe
