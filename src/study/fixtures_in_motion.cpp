// Fixtures measured tick by tick.
#include "study/fixture_maker.hpp"

namespace hollow_probe {

template <int D>
void add_motions(const std::shared_ptr<const FixtureMaker<D>>& m, FixtureCollection<D>& all) {
    using Values = std::vector<double>;
    const Vec<D> up = Vec<D>::unit(1);
    const double touch = m->intent().touch;
    const double size = m->size();

    Fixture<D>& landing =
        all.add("landing", "A fall on to a thin floor, 60 ticks a second",
                {{"speed", Unit::speed, 0.5 * size, 40.0 * size, 5.0 * size, "At which the body arrives"},
                 {"thickness", Unit::length, 0.1 * touch, size, touch, "Of the floor"}},
                {Claim::ground}, [m, size, up](const Values& v, double turn) {
                    auto builder = m->builder();
                    m->block(builder, "floor", -m->far(), m->far(), -v[1], 0.0);
                    return FixtureScene<D>{builder.build(), m->pose(4.0 * size * up, turn), up};
                });
    landing.drill = [m, size, up](const Values& v, double turn) {
        Drill<D> drill;
        drill.name = "landing";
        drill.at = 4.0 * size * up;
        drill.heading = m->heading(turn);
        drill.stance = m->rig().body.stances[m->options().stance].name;
        // Falls that far in 2 · way ÷ speed.
        drill.motion.gravity = v[0] * v[0] / (8.0 * size);
        drill.seconds = 8.0 * size / v[0] + 0.25;
        return drill;
    };
    for (const double sense : {1.0, -1.0}) {
        const std::string way = sense > 0.0 ? "up" : "down";
        Fixture<D>& lift =
            all.add("lift " + way, "A deck that carries the body " + way + ", 60 ticks a second",
                    {{"pace", Unit::speed, 0.05 * size, 6.0 * size, size, "Of the deck"}}, {Claim::ground},
                    [m, sense, up](const Values& v, double turn) {
                        auto builder = m->builder();
                        m->block(builder, "deck", -4.0 * m->size(), 4.0 * m->size(), -0.2 * m->size(), 0.0);
                        builder.path({{Vec<D>::zero(), sense * 1000.0 * m->size() * up}, v[0], 0.0});
                        return FixtureScene<D>{builder.build(), m->pose(Vec<D>::zero(), turn), up};
                    });
        lift.drill = [m](const Values&, double turn) {
            Drill<D> drill;
            drill.name = "lift";
            drill.heading = m->heading(turn);
            drill.stance = m->rig().body.stances[m->options().stance].name;
            drill.motion.gravity = 12.0 * m->size();
            drill.seconds = 0.75;
            return drill;
        };
    }
}

template void add_motions<2>(const std::shared_ptr<const FixtureMaker<2>>&, FixtureCollection<2>&);
template void add_motions<3>(const std::shared_ptr<const FixtureMaker<3>>&, FixtureCollection<3>&);

}  // namespace hollow_probe
