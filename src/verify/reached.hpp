// Where the player can come from the level's starts: by walking, stepping, falling, and jumps of the intent.
#pragma once

#include <deque>

#include "verify/feelers.hpp"

namespace hollow_probe {

/// Rests on the columns of the grid, in every stance and at every moment, joined where the body gets from one
/// to the next. Errs on the side of more: in the air a body goes sideways as far as it falls; what a moving
/// solid passes anywhere it passes at all times; any stance is taken wherever it fits.
template <int D>
class Reached {
  public:
    explicit Reached(const Planned<D>& planned);

    /// Whether the body can be at a pose, or within a column and a step of it.
    [[nodiscard]] bool is_reached(const SurveyPose<D>& pose) const;

  private:
    /// A body that has left its footing, or is about to.
    struct Flight {
        double highest = 0.0;  // that its anchor comes to
        double base = 0.0;     // where it took off
        double way = 0.0;      // it has gone sideways
        double tread = 0.0;    // the highest point it can step or jump on to
    };
    /// Footing of a column.
    struct Rest {
        double height = 0.0;      // of the anchor
        double tread = 0.0;       // of the point that is stood on
        std::uint32_t solid = 0;  // that this is on
        bool stood = false;       // the body has been there

        template <class Archive>
        friend void members(Archive& archive, Rest& rest) {
            archive(rest.height);
            archive(rest.tread);
            archive(rest.solid);
            archive(rest.stood);
        }
    };
    /// Heights of a column at which the body is free.
    struct Span {
        double low = 0.0;
        double high = 0.0;
        double highest = -infinity;        // that an anchor comes to; below `low`: nobody comes here
        std::vector<Rest> rests = {};      // ascending
        std::vector<Flight> flights = {};  // over here, none of which outdoes another

        template <class Archive>
        friend void members(Archive& archive, Span& span) {
            archive(span.low);
            archive(span.high);
            archive(span.highest);
            members(archive, span.rests);
        }
    };
    /// One stance at one moment.
    struct Layer {
        std::size_t facing = 0;  // the first with them
        std::vector<std::vector<Span>> columns;
    };
    struct Node {
        std::size_t layer;
        std::size_t column;
        std::size_t span;
    };

    void lay_out();
    /// What the body of a facing feels with, for spans_of().
    [[nodiscard]] Feelers<D> body_of(std::size_t facing) const;
    std::vector<Span> spans_of(std::size_t facing, const Feelers<D>& body, const Vec<D>& foot) const;
    void start();
    void stand(const Node& node, std::size_t rest);
    void ride(std::uint32_t solid);
    void take_off(const Node& node, double height, double tread);
    void fly();
    [[nodiscard]] bool outdoes(const Flight& flight, const Flight& other) const;
    void come(const Node& node, Flight flight);
    void go_on(const Node& node, const Flight& flight);
    Span& at(const Node& node) { return layers_[node.layer].columns[node.column][node.span]; }
    template <class Visit>
    void for_each_neighbour(std::size_t column, Visit visit) const;
    [[nodiscard]] std::size_t column_at(const Vec<D>& anchor) const;

    const Planned<D>& s_;
    double lift_ = 0.0;  // by which a stance gets higher: a step, or a jump
    double leap_ = 0.0;  // how far sideways without falling
    double noise_ = 0.0;
    std::vector<Layer> layers_;
    double stride_ = 0.0;                                     // … on to something higher
    double drift_ = 0.0;                                      // … and how much farther while falling
    std::deque<std::pair<Node, Flight>> flying_;              // to go on from there
    std::deque<std::pair<Node, std::size_t>> standing_ = {};  // rests to take off from
    std::vector<bool> ridden_;  // moving solids, by number: the body has stood on them
};

extern template class Reached<2>;
extern template class Reached<3>;

}  // namespace hollow_probe
