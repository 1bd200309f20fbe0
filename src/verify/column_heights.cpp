#include "verify/column_heights.hpp"

#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

void join(std::vector<HeightSpan>& spans) {
    std::sort(spans.begin(), spans.end(),
              [](const HeightSpan& a, const HeightSpan& b) { return a.low < b.low; });
    std::size_t kept = 0;
    for (const HeightSpan& span : spans) {
        if (kept > 0 && span.low <= spans[kept - 1].high) {
            spans[kept - 1].high = std::max(spans[kept - 1].high, span.high);
        } else {
            spans[kept++] = span;
        }
    }
    spans.resize(kept);
}

namespace {

/// What one column's pieces say of its heights.
template <int D>
class Gathering {
  public:
    /// For the truths, or the probes in `wanted`.
    Gathering(const Planned<D>& s, std::size_t facing, const Feelers<D>& feelers, const Vec<D>& foot,
              const HeightSpan& within, const std::vector<HeightSpan>& taken,
              const std::vector<bool>* wanted = nullptr)
        : level_(s.level_of(facing)),
          up_(level_.up()),
          feelers_(feelers),
          foot_(foot),
          within_(within),
          taken_(taken),
          wanted_(wanted),
          meets_(s.mounted[facing].meets),
          touch_(s.rig.intent.touch),
          parts_(wanted == nullptr ? 1 : wanted->size()) {}

    void take(std::uint32_t piece) {
        const HullView<D> hull = level_.piece(piece);
        const Bounds<D> around = bounds_of(hull);
        deep_.reset();
        of_balls_.assign(feelers_.balls.size(), std::nullopt);
        for (const Feeler<D>& feeler : feelers_.feelers) {
            if (!turns_to(feeler.probe) || !level_.on_layers(piece, feeler.layers) ||
                passes_beside(feeler.bounds, around))
                continue;
            const auto touching = touching_heights_of(feeler, hull);
            if (!touching) continue;
            feel(feeler, *touching);
            if (feeler.is_body && level_.on_layers(piece, meets_)) stand(feeler, piece, hull, *touching);
            if (feeler.deep || (feeler.sinks && level_.is_one_way(piece)))
                add(deep_heights<D>(feeler.shape.view(), foot_, up_, hull, *touching, touch_));
            if (feeler.inside && (!feeler.inside_one_way || level_.is_one_way(piece)))
                look_inside(feeler, hull, *touching);
        }
        for (const TurningFeeler<D>& feeler : feelers_.turning) {
            if (!turns_to(feeler.probe) || !level_.on_layers(piece, feeler.turning.layers) ||
                passes_beside(feeler.bounds, around))
                continue;
            add_turning_heights<D>(feeler.turning, foot_, up_, hull, turned_);
            add_turned();
        }
        for (Part& part : parts_) {
            if (part.busy.low > part.busy.high) continue;
            part_ = &part;
            add_rises(hull);
            part.felt.busy.push_back({part.busy.low - touch_, part.busy.high + touch_});
            part.busy = {infinity, -infinity};
        }
    }

    ColumnHeights finish() {
        join(heights_.clipped);
        std::sort(heights_.rests.begin(), heights_.rests.end());
        heights_.felt = finish(parts_.front());
        return std::move(heights_);
    }
    std::vector<FeltHeights> finish_each() {
        std::vector<FeltHeights> each;
        each.reserve(parts_.size());
        for (Part& part : parts_) {
            each.push_back(finish(part));
            leave_out_taken(each.back().candidates);
        }
        return each;
    }

  private:
    /// What is felt so far.
    struct Part {
        FeltHeights felt;
        HeightSpan busy{infinity, -infinity};  // of the piece at hand
    };

    static FeltHeights finish(Part& part) {
        join(part.felt.busy);
        std::sort(part.felt.candidates.begin(), part.felt.candidates.end());
        return std::move(part.felt);
    }

    /// … and all but one of those that are the same.
    void leave_out_taken(std::vector<double>& candidates) const {
        auto span = taken_.begin();
        std::size_t kept = 0;
        for (const double height : candidates) {
            while (span != taken_.end() && span->high <= height) ++span;
            const bool is_taken = span != taken_.end() && span->low < height;
            if (!is_taken && (kept == 0 || candidates[kept - 1] != height)) candidates[kept++] = height;
        }
        candidates.resize(kept);
    }

    /// Whether what feels there is asked for, which from then on is for its probe.
    bool turns_to(int probe) {
        const auto number = static_cast<std::size_t>(std::max(probe, 0));
        if (wanted_ != nullptr && (probe < 0 || !(*wanted_)[number])) return false;
        part_ = &parts_[wanted_ == nullptr ? 0 : number];
        return true;
    }

    void add(double height) {
        if (height > within_.low && height < within_.high) part_->felt.candidates.push_back(height);
    }
    void add_turned() {
        for (const double height : turned_) add(height);
        turned_.clear();
    }
    void add(const std::optional<HeightSpan>& span) {
        if (!span) return;
        add(span->low);
        add(span->high);
    }

    std::optional<HeightSpan> touching_heights_of(const Feeler<D>& feeler, const HullView<D>& hull) {
        if (feeler.upright) {
            auto& of_ball = of_balls_[feeler.ball];
            if (!of_ball) {
                const FeelerBall<D>& ball = feelers_.balls[feeler.ball];
                of_ball.emplace();
                of_ball->meets =
                    touching_heights_of_ball<D>(foot_ + ball.foot, up_, ball.radius, hull, of_ball->span);
            }
            if (of_ball->meets == Meets::no) return std::nullopt;
            if (of_ball->meets == Meets::yes)
                return HeightSpan{of_ball->span.low - feeler.upright->high,
                                  of_ball->span.high - feeler.upright->low};
        }
        return touching_heights<D>(feeler.shape.view(), foot_, up_, hull);
    }

    void feel(const Feeler<D>& feeler, const HeightSpan& touching) {
        add(touching);
        double beyond = 0.0;
        for (const double by : feeler.beyond) {
            add(touching.high + by);
            add(touching.low - by);
            beyond = std::max(beyond, std::abs(by));
        }
        part_->busy.low = std::min(part_->busy.low, touching.low - beyond);
        part_->busy.high = std::max(part_->busy.high, touching.high + beyond);
    }

    /// Whether the column leads what has these bounds past a box: its way is up, and their shadows lie apart.
    bool passes_beside(const Bounds<D>& bounds, const Bounds<D>& box) const {
        if (std::abs(up_[1]) != 1.0) return false;  // then they are not boxes
        for (int axis = 0; axis < D; ++axis) {
            if (axis == 1) continue;
            const double hair =
                tolerance::accuracy * (1.0 + std::abs(foot_[axis]) + std::abs(box.high[axis]));
            if (foot_[axis] + bounds.low[axis] > box.high[axis] + hair ||
                foot_[axis] + bounds.high[axis] < box.low[axis] - hair)
                return true;
        }
        return false;
    }

    /// Where the body rests on a piece that it meets, and where it clips.
    void stand(const Feeler<D>& body, std::uint32_t piece, const HullView<D>& hull,
               const HeightSpan& touching) {
        heights_.rests.push_back(touching.high);
        deep_ = deep_heights<D>(body.shape.view(), foot_, up_, hull, touching, touch_);
        if (level_.is_one_way(piece)) {
            add(deep_);  // deeper than that it stops nobody
        } else if (deep_) {
            heights_.clipped.push_back(*deep_);
        }
    }

    /// Nothing is asked where the body is deep inside, or what is taken.
    void look_inside(const Feeler<D>& feeler, const HullView<D>& hull, const HeightSpan& touching) {
        const double fine = 1e-6 * touch_;
        double low = touching.low;
        const auto look_up_to = [&](double high, OfDeepest side) {
            if (low < high)
                add_inside_heights<D>(*feeler.inside, foot_, up_, hull, {low, high}, side, fine, turned_);
        };
        if (feeler.is_body && deep_) {
            look_up_to(deep_->low, OfDeepest::below);
            low = std::max(low, deep_->high);
            look_up_to(touching.high, OfDeepest::above);
        } else {
            for (const HeightSpan& span : taken_) {
                if (span.high <= low || span.low >= touching.high) continue;
                look_up_to(span.low, OfDeepest::either);
                low = span.high;
            }
            look_up_to(touching.high, OfDeepest::either);
        }
        add_turned();
    }

    /// What lies that far above the feet may still count: its corners, and where flat sides between round
    /// edges end.
    void add_rises(const HullView<D>& hull) {
        const double at = up_.dot(foot_);
        const auto [bottom, top] = extent_along(hull, up_);
        for (const double rise : feelers_.rises) {
            for (const Vec<D>& corner : hull.points) add(up_.dot(corner) - at - rise);
            add(top + hull.radius - at - rise);
            part_->busy.low = std::min(part_->busy.low, bottom - hull.radius - at - rise);
        }
        if (hull.radius <= 0.0 || feelers_.rises.empty()) return;
        for_each_normal(hull, [&](const Vec<D>& n) {
            const double side = extent_along(hull, n)[1];
            for (const Vec<D>& corner : hull.points) {
                if (n.dot(corner) < side - tolerance::accuracy * (1.0 + std::abs(side))) continue;
                for (const double rise : feelers_.rises) add(up_.dot(corner + hull.radius * n) - at - rise);
            }
        });
    }

    const Level<D>& level_;
    const Vec<D>& up_;
    const Feelers<D>& feelers_;
    const Vec<D>& foot_;
    const HeightSpan& within_;
    const std::vector<HeightSpan>& taken_;
    const std::vector<bool>* wanted_;
    LayerSet meets_;
    double touch_;
    std::vector<Part> parts_;  // by probe, or the truths' only one
    Part* part_ = nullptr;     // that is being felt for
    ColumnHeights heights_;
    struct OfBall {
        Meets meets = Meets::no;
        HeightSpan span;  // of its middle
    };
    // Of the piece at hand:
    std::vector<std::optional<OfBall>> of_balls_;
    std::optional<HeightSpan> deep_;  // where the body overlaps it deeper than touch
    std::vector<double> turned_;
};

/// The pieces that something can reach from the column, in order.
template <int D>
std::vector<std::uint32_t> pieces_at(const Planned<D>& s, std::size_t facing, const Feelers<D>& feelers,
                                     const Vec<D>& foot, const HeightSpan& within) {
    const Level<D>& level = s.level_of(facing);
    const Vec<D>& up = level.up();
    const Mat<D> frame = body_frame<D>(s.facings[facing].heading, up);
    Sweep<D> sweep;
    const Vec<D> middle = feelers.reach.center();
    sweep.center = foot + frame * middle + (within.high - middle[1] + feelers.reach.high[1]) * up;
    for (int axis = 0; axis < D; ++axis)
        sweep.axes[static_cast<std::size_t>(axis)] = 0.5 * feelers.reach.size()[axis] * frame.column(axis);
    sweep.direction = -up;
    sweep.reach = within.high - within.low + 2.0 * feelers.reach.size()[1];
    sweep.layers = feelers.layers;
    std::vector<std::uint32_t> pieces;
    level.tree().along(sweep, [&](std::uint32_t piece, double limit) {
        pieces.push_back(piece);
        return limit;
    });
    std::sort(pieces.begin(), pieces.end());
    return pieces;
}

}  // namespace

template <int D>
ColumnHeights heights_of_column(const Planned<D>& s, std::size_t facing, const Feelers<D>& feelers,
                                const Vec<D>& foot, const HeightSpan& within) {
    const std::vector<HeightSpan> nothing_taken;
    Gathering<D> gathering(s, facing, feelers, foot, within, nothing_taken);
    for (const std::uint32_t piece : pieces_at<D>(s, facing, feelers, foot, within)) gathering.take(piece);
    return gathering.finish();
}

template <int D>
std::vector<FeltHeights> heights_of_probes(const Planned<D>& s, std::size_t facing, const Feelers<D>& feelers,
                                           const Vec<D>& foot, const HeightSpan& within,
                                           const std::vector<HeightSpan>& taken,
                                           const std::vector<bool>& wanted) {
    Gathering<D> gathering(s, facing, feelers, foot, within, taken, &wanted);
    for (const std::uint32_t piece : pieces_at<D>(s, facing, feelers, foot, within)) gathering.take(piece);
    return gathering.finish_each();
}

template ColumnHeights heights_of_column<2>(const Planned<2>&, std::size_t, const Feelers<2>&, const Vec<2>&,
                                            const HeightSpan&);
template ColumnHeights heights_of_column<3>(const Planned<3>&, std::size_t, const Feelers<3>&, const Vec<3>&,
                                            const HeightSpan&);
template std::vector<FeltHeights> heights_of_probes<2>(const Planned<2>&, std::size_t, const Feelers<2>&,
                                                       const Vec<2>&, const HeightSpan&,
                                                       const std::vector<HeightSpan>&,
                                                       const std::vector<bool>&);
template std::vector<FeltHeights> heights_of_probes<3>(const Planned<3>&, std::size_t, const Feelers<3>&,
                                                       const Vec<3>&, const HeightSpan&,
                                                       const std::vector<HeightSpan>&,
                                                       const std::vector<bool>&);

}  // namespace hollow_probe
