// Fixtures of what is before the body, or above it.
#include "study/fixture_maker.hpp"

namespace hollow_probe {

template <int D>
void add_obstacles(const std::shared_ptr<const FixtureMaker<D>>& m, FixtureCollection<D>& all) {
    using Values = std::vector<double>;
    const Intent& intent = m->intent();
    const double touch = intent.touch;
    const Vec<D> up = Vec<D>::unit(1);
    const double lowest = std::min(0.5 * intent.lowest_step, 0.5 * touch);

    all.add("step", "A step before the body",
            {{"rise", Unit::length, std::max(lowest, 1e-3 * touch),
              std::max(2.0 * intent.tallest_step, 0.5 * m->height()),
              0.5 * (intent.lowest_step + intent.tallest_step), "From the floor to the step"},
             {"distance", Unit::length, 0.0, std::max(4.0 * intent.ahead_step, m->half()),
              0.5 * intent.ahead_step, "From the body forward to the step"}},
            {Claim::step, Claim::wall, Claim::blocked}, [m](const Values& v, double turn) {
                const Vec<D> ahead = m->heading(0.0);
                const double at = m->extent(m->turned(m->heading(turn)), ahead) + v[1];
                auto builder = m->builder();
                m->floor(builder);
                m->block(builder, "step", at, m->far(), -0.5 * m->thick(), v[0]);
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::zero(), turn), -m->heading(turn)};
            });
    all.add("drop", "A floor that ends before the body, and one below it",
            {{"depth", Unit::length, 0.0, std::max(2.0 * intent.deepest_drop + touch, m->height()),
              2.0 * intent.deepest_drop + touch, "From the floor down to the lower one"},
             {"distance", Unit::length, 0.0, std::max(2.0 * intent.ahead_drop, 4.0 * m->half()),
              0.5 * intent.ahead_drop, "From the anchor forward to the end"}},
            {Claim::drop}, [m](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), v[1], -m->thick() - v[0], 0.0);
                m->block(builder, "lower floor", v[1], m->far(), -m->thick() - v[0], -v[0]);
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::zero(), turn), -m->heading(turn)};
            });
    all.add("gap", "A gap in the floor before the body",
            {{"width", Unit::length, 0.0, 4.0 * m->half(), 0.0, "Of the gap"},
             {"distance", Unit::length, 0.0, std::max(2.0 * intent.ahead_drop, 4.0 * m->half()),
              0.5 * intent.ahead_drop, "From the anchor forward to the gap"}},
            {Claim::drop}, [m](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), v[1], -m->thick(), 0.0);
                m->block(builder, "floor beyond", v[1] + v[0], m->far(), -m->thick(), 0.0);
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::zero(), turn), -m->heading(turn)};
            });
    all.add("wall", "A floor, and a plane before the body",
            {{"distance", Unit::length, 0.0, std::max(6.0 * intent.ahead_wall, m->half()),
              0.5 * intent.ahead_wall, "How far the body goes along its heading until it touches"},
             {"steepness", Unit::degrees, 20.0, 150.0, 90.0,
              "Of the plane, from level; more than 90 hangs over"}},
            {Claim::wall, Claim::blocked}, [m](const Values& v, double turn) {
                const double s = radians_of(v[1]);
                const Vec<D> n = point<D>(-std::sin(s), std::cos(s));
                const Vec<D> h = m->heading(turn);
                // Touched first at the support of the body towards the plane.
                const double reach = m->extent(m->turned(h), -n) - v[0] * n.dot(h);
                auto builder = m->builder();
                m->floor(builder);
                m->behind(builder, "wall", -reach * n, n);
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::zero(), turn), -h};
            });
    all.add("ceiling", "A plane above the body, which is in the air",
            {{"gap", Unit::length, 0.0, std::max(20.0 * touch, 0.5 * m->height()), 0.5 * touch,
              "How far the body rises until it touches"},
             {"angle", Unit::degrees, 0.0, 85.0, 0.0, "Of the plane, from level; it falls forward"}},
            {Claim::ceiling}, [m, up](const Values& v, double turn) {
                const double a = radians_of(v[1]);
                const Vec<D> n = point<D>(-std::sin(a), -std::cos(a));
                const double reach = m->extent(m->turned(m->heading(turn)), -n) + v[0] * std::cos(a);
                auto builder = m->builder();
                m->behind(builder, "ceiling", -reach * n, n);
                return FixtureScene<D>{builder.build(), m->pose(Vec<D>::zero(), turn), -up};
            });
    const auto [lowest_ledge, highest_ledge] = std::pair(intent.ledge_between[0], intent.ledge_between[1]);
    all.add(
        "ledge", "A block before the body, with floor behind it",
        {{"height", Unit::length, std::max(0.25 * lowest_ledge, touch), 1.5 * highest_ledge + touch,
          0.5 * (lowest_ledge + highest_ledge), "From the floor to the block's top"},
         {"depth", Unit::length, 0.02 * m->half(), 6.0 * m->half(), 6.0 * m->half(), "Of the block, forward"},
         {"distance", Unit::length, 0.0, std::max(3.0 * intent.ahead_ledge, m->half()),
          0.5 * intent.ahead_ledge, "From the body forward to the block"}},
        {Claim::ledge}, [m](const Values& v, double turn) {
            const double at = m->extent(m->turned(m->heading(turn)), m->heading(0.0)) + v[2];
            auto builder = m->builder();
            m->floor(builder);
            m->block(builder, "block", at, at + v[1], -0.5 * m->thick(), v[0]);
            return FixtureScene<D>{builder.build(), m->going(Vec<D>::zero(), turn), -m->heading(turn)};
        });
    all.add("lintel", "A beam before the body, and room below it",
            {{"clearance", Unit::length, 0.1 * m->height(), 1.2 * m->height(), 0.8 * m->height(),
              "From the floor to the beam"},
             {"distance", Unit::length, 0.0, std::max(6.0 * intent.ahead_wall, m->half()),
              0.5 * intent.ahead_wall, "From the body forward to the beam"}},
            {Claim::wall, Claim::blocked}, [m](const Values& v, double turn) {
                const double at = m->extent(m->turned(m->heading(turn)), m->heading(0.0)) + v[1];
                auto builder = m->builder();
                m->floor(builder);
                m->block(builder, "beam", at, m->far(), v[0], v[0] + 4.0 * m->height());
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::zero(), turn), -m->heading(turn)};
            });
    double tallest = 0.0;
    std::size_t lowest_stance = 0;
    const auto& stances = m->rig().body.stances;
    for (std::size_t i = 0; i < stances.size(); ++i) {
        tallest = std::max(tallest, stances[i].shape.bounds().high[1]);
        if (stances[i].shape.bounds().high[1] < stances[lowest_stance].shape.bounds().high[1])
            lowest_stance = i;
    }
    const double low = stances[lowest_stance].shape.bounds().high[1];
    all.add("passage", "A low passage, the body in its lowest stance in it",
            {{"clearance", Unit::length, low, 1.3 * tallest, tallest, "From floor to ceiling"}},
            {Claim::headroom}, [m, lowest_stance](const Values& v, double turn) {
                auto builder = m->builder();
                m->floor(builder);
                const double half = 4.0 * m->size();
                m->block(builder, "roof", -half, half, v[0], v[0] + m->height());
                Pose<D> pose = m->pose(Vec<D>::zero(), turn);
                pose.stance = lowest_stance;
                return FixtureScene<D>{builder.build(), pose, -m->heading(0.0)};
            });
}

template void add_obstacles<2>(const std::shared_ptr<const FixtureMaker<2>>&, FixtureCollection<2>&);
template void add_obstacles<3>(const std::shared_ptr<const FixtureMaker<3>>&, FixtureCollection<3>&);

}  // namespace hollow_probe
