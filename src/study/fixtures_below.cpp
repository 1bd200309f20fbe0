// Fixtures of what the body stands on.
#include "study/fixture_maker.hpp"

namespace hollow_probe {

template <int D>
void add_grounds(const std::shared_ptr<const FixtureMaker<D>>& m, FixtureCollection<D>& all) {
    using Values = std::vector<double>;
    const double touch = m->intent().touch;
    const double size = m->size();
    const Vec<D> up = Vec<D>::unit(1);

    all.add(
        "floor", "A flat floor below the body",
        {{"gap", Unit::length, 0.0, std::max(20.0 * touch, 0.5 * size), 0.0, "From the floor to the body"}},
        {Claim::ground}, [m, up](const Values& v, double turn) {
            auto builder = m->builder();
            m->floor(builder);
            return FixtureScene<D>{builder.build(), m->pose(v[0] * up, turn), up};
        });
    all.add("slope", "A plane that rises forward, the body at rest on it",
            {{"angle", Unit::degrees, 0.0, 85.0, 0.0, "Of the plane, from level"}}, {Claim::ground},
            [m, up](const Values& v, double turn) {
                const double a = radians_of(v[0]);
                const Vec<D> n = point<D>(-std::sin(a), std::cos(a));
                auto builder = m->builder();
                m->behind(builder, "slope", Vec<D>::zero(), n);
                const double below = m->extent(m->turned(m->heading(turn)), -n);
                return FixtureScene<D>{builder.build(), m->pose(below / n[1] * up, turn), up};
            });
    all.add("lip", "A floor that ends below the body",
            {{"overhang", Unit::length, -m->half(), 1.5 * m->half(), 0.0,
              "How far the anchor is past the end; what does not rest there is at the floor's height"}},
            {Claim::ground}, [m, up](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), 0.0, -m->thick(), 0.0);
                Level<D> level = builder.build();
                const Vec<D> anchor = m->at_rest(level, point<D>(v[0], 0.0), turn, 0.0);
                return FixtureScene<D>{std::move(level), m->pose(anchor, turn), up};
            });
    if constexpr (D == 3) {
        all.add("corner", "A floor that ends before the body and beside it",
                {{"overhang", Unit::length, -m->half(), 1.5 * m->half(), 0.0,
                  "How far the anchor is past the corner, along the diagonal"}},
                {Claim::ground}, [m, up](const Values& v, double turn) {
                    auto builder = m->builder();
                    m->box(builder, "floor", point<D>(-m->far(), -m->thick(), -m->far()), Vec<D>::zero());
                    Level<D> level = builder.build();
                    const double each = v[0] / std::sqrt(2.0);
                    const Vec<D> anchor = m->at_rest(level, point<D>(each, 0.0, each), turn, 0.0);
                    return FixtureScene<D>{std::move(level), m->pose(anchor, turn), up};
                });
    }
    all.add("slot", "A gap in the floor, the body over its middle",
            {{"width", Unit::length, 0.0, 3.0 * m->half(), 0.0, "Of the gap"}}, {Claim::ground},
            [m, up](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), -0.5 * v[0], -m->thick(), 0.0);
                m->block(builder, "floor beyond", 0.5 * v[0], m->far(), -m->thick(), 0.0);
                Level<D> level = builder.build();
                const Vec<D> anchor = m->at_rest(level, Vec<D>::zero(), turn, 0.0);
                return FixtureScene<D>{std::move(level), m->pose(anchor, turn), up};
            });
    all.add("ridge", "Two slopes that meet in an edge, the body on the edge",
            {{"angle", Unit::degrees, 1.0, 80.0, 1.0, "Of each slope, from level"}}, {Claim::ground},
            [m, up](const Values& v, double turn) {
                const double a = radians_of(v[0]);
                const double far = m->far();
                std::vector<Vec<D>> corners;
                for (const double aside : {-far, far}) {
                    for (const double side : {-1.0, 0.0, 1.0})
                        corners.push_back(
                            point<D>(side * far * std::cos(a), -std::abs(side) * far * std::sin(a), aside));
                    if (D == 2) break;
                }
                auto builder = m->builder();
                builder.add("ridge", m->options().layer, RoundedHull<D>::hull(corners));
                Level<D> level = builder.build();
                const Vec<D> anchor = m->at_rest(level, Vec<D>::zero(), turn, 0.0);
                return FixtureScene<D>{std::move(level), m->pose(anchor, turn), up};
            });
    all.add("valley", "Two slopes that meet in a crease, the body in the crease",
            {{"angle", Unit::degrees, 0.0, 80.0, 0.0, "Of each slope, from level"}}, {Claim::ground},
            [m, up](const Values& v, double turn) {
                const double a = radians_of(v[0]);
                auto builder = m->builder();
                m->behind(builder, "rise", Vec<D>::zero(), point<D>(-std::sin(a), std::cos(a)));
                m->behind(builder, "rise behind", Vec<D>::zero(), point<D>(std::sin(a), std::cos(a)));
                Level<D> level = builder.build();
                const Vec<D> n = point<D>(-std::sin(a), std::cos(a));
                const Vec<D> back = point<D>(std::sin(a), std::cos(a));
                const RoundedHull<D> body = m->turned(m->heading(turn));
                const double high = std::max(m->extent(body, -n), m->extent(body, -back)) / std::cos(a);
                return FixtureScene<D>{std::move(level), m->pose(high * up, turn), up};
            });
    all.add("deck", "A thin deck that is solid from above alone, the body passing through it",
            {{"height", Unit::length, -1.2 * m->height(), std::max(0.2 * m->height(), 4.0 * touch), 0.0,
              "Of the anchor above the deck"}},
            {Claim::ground}, [m, up](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "deck", -m->far(), m->far(), -0.05 * m->size(), 0.0);
                builder.one_way(up);
                return FixtureScene<D>{builder.build(), m->pose(v[0] * up, turn), up};
            });
    all.add("seam", "Two floors that meet, one of them a little higher",
            {{"offset", Unit::length, -touch, touch, 0.0, "Of the floor ahead, upwards"},
             {"distance", Unit::length, -2.0 * m->half(),
              std::max(2.0 * m->half(), m->half() + m->intent().ahead_wall),
              m->half() + 0.5 * m->intent().ahead_wall, "From the anchor forward to where they meet"}},
            {Claim::ground, Claim::wall, Claim::drop, Claim::step, Claim::blocked},
            [m](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), v[1], -m->thick(), 0.0);
                m->block(builder, "floor ahead", v[1], m->far(), -m->thick(), v[0]);
                Level<D> level = builder.build();
                const Vec<D> anchor = m->at_rest(level, Vec<D>::zero(), turn, std::max(0.0, v[0]));
                return FixtureScene<D>{std::move(level), m->going(anchor, turn), -m->heading(turn)};
            });
}

template void add_grounds<2>(const std::shared_ptr<const FixtureMaker<2>>&, FixtureCollection<2>&);
template void add_grounds<3>(const std::shared_ptr<const FixtureMaker<3>>&, FixtureCollection<3>&);

}  // namespace hollow_probe
