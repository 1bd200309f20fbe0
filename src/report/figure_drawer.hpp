// Draws figures: the level, the verdicts in it, a body with what its probes read, and what to change.
#pragma once

#include <optional>
#include <set>

#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/truth/decision.hpp"
#include "report/look.hpp"
#include "report/pose_reading.hpp"
#include "report/projection.hpp"

namespace hollow_probe {

/// One figure. What is drawn where is in figure.cpp; the level, its marks, the body and the panel are in
/// files of their own.
template <int D>
class FigureDrawer {
  public:
    FigureDrawer(const Scene<D>& scene, ImageKind kind)
        : scene_(scene), level_(*scene.level), canvas_(kind, page_width, page_height) {
        if (!scene.pose || !scene.rig) return;
        read_.emplace(level_, *scene.rig, *scene.pose);
        if (scene.judged) read_->say_as(*scene.judged);
        if (scene.finding != nullptr) read_->say_as(scene.finding->worst);
    }
    std::string draw();

  private:
    bool several_signals() const { return scene_.survey != nullptr && scene_.survey->signals.size() > 1; }
    std::string whose_marks() const;
    Vec<D> heading() const;
    View<D> side_view(const Rect& frame) const;
    View<3> plan_view(const Rect& frame) const requires(D == 3);
    void fit_level(View<D>& view, double margin) const;
    void fit_body(View<D>& view) const;
    void draw_view(const View<D>& view, const std::string& caption, bool overview);
    void draw_scale(const View<D>& view);
    void fill_solid(const Outline& page, std::uint32_t layer, bool cut);
    void draw_level_2d(const View<2>& view, bool overview) requires(D == 2);
    void draw_level_3d(const View<3>& view, bool overview) requires(D == 3);
    /// Arrows across one-way solids, towards the side that stops.
    void draw_one_ways(const View<2>& view, double size) requires(D == 2);
    void draw_arrow(const Vec<2>& middle, const Vec<2>& along, double size);
    /// How much light a surface with outward normal n gets, 0 to 1: from above the beholder's left shoulder.
    static double lit(const View<3>& view, const Vec<3>& n) requires(D == 3);
    static Color shaded(const Color& fill, double light) { return darker(fill, 0.76 + 0.26 * light); }
    /// The light on the side of a facet that is seen; of anything round, or of several sides, a middling one.
    double facing(const View<3>& view, const HullView<3>& hull, std::uint32_t piece) const requires(D == 3);
    /// The sides of a polyhedron that face the beholder, each in its own light.
    void draw_faces(const View<3>& view, const HullView<3>& hull, const Color& fill) requires(D == 3);
    /// Whether a convex piece beyond the cut cannot be seen: nothing of what lies between lets its corners
    /// and its middle through. Not asked of meshes, whose triangles hide each other by the thousand.
    bool is_hidden(const View<3>& view, std::uint32_t piece) const requires(D == 3);
    /// Of several signals, the marks are those of the finding shown: of all together nothing could be read.
    Verdict worst_of(const SurveyPose<D>& pose) const;
    /// An elevation shows the poses in its plane, any other view all of them.
    bool is_in_view(const View<D>& view, const SurveyPose<D>& pose) const;
    /// One mark a few pixels, the gravest of those that fall there, so that wrong ones are never painted
    /// over.
    void draw_marks(const View<D>& view, double size);
    /// Names of findings, the worst first, each beside its place; where there is no room for one, none.
    void label_findings(const View<D>& view);
    void draw_body(const View<D>& view, bool overview);
    void draw_probe(const View<D>& view, std::size_t i, bool overview);
    void draw_line(const View<D>& view, std::size_t i, std::size_t line,
                   const std::optional<LevelHit<D>>& hit, bool overview);
    void draw_hit(const View<D>& view, const LevelHit<D>& hit, bool on);
    /// Each beside where its probe starts, and none over another.
    void draw_numbers(const View<D>& view);
    void draw_panel(const Rect& rect);
    /// What to change, the best few.
    template <class Say>
    void list_fixes(const Rect& rect, double& y, Say say);
    /// The other findings, a line each, as many as there is room for.
    void list_findings(const Rect& rect, double y, double limit);
    template <class Say>
    void say_pose(Say say);
    /// A line each, and one for all that are not mounted.
    template <class Say>
    void say_readings(const Rect& rect, double& y, double limit, Say say);
    void say_signals(const Rect& rect, double& y, double limit);
    static std::string margin_words(const Margin& margin);
    static std::string off_words(const Margin& margin);
    double legend_height(double width) const { return width > 900.0 ? 26.0 : 46.0; }
    /// Only what is shown: layers of the level, marks that were drawn.
    void draw_legend(const Rect& rect);

    const Scene<D>& scene_;
    const Level<D>& level_;
    Canvas canvas_;
    std::optional<PoseReading<D>> read_;
    std::set<Verdict> shown_verdicts_;
    bool any_hidden_ = false;
};

}  // namespace hollow_probe
