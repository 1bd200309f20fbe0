#include "verify/probe_heights.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

/// All that decides what one probe's feelers say of a column, besides where that is and the truths there.
template <int D>
class Terms {
  public:
    Terms(const Feelers<D>& feelers, int probe) {
        for (const Feeler<D>& feeler : feelers.feelers) {
            if (feeler.probe == probe) add(feeler, feelers.balls);
        }
        for (const TurningFeeler<D>& feeler : feelers.turning) {
            if (feeler.probe == probe) add(feeler.turning);
        }
    }

    std::vector<double> numbers;

  private:
    void add(double number) { numbers.push_back(number); }
    void add(const std::vector<double>& list) {
        add(static_cast<double>(list.size()));
        numbers.insert(numbers.end(), list.begin(), list.end());
    }
    void add(const Vec<D>& v) { numbers.insert(numbers.end(), v.data(), v.data() + D); }
    void add(const RoundedHull<D>& hull) {
        add(hull.radius());
        add(static_cast<double>(hull.points().size()));
        for (const Vec<D>& point : hull.points()) add(point);
    }
    void add_layers(LayerSet layers) {
        add(static_cast<double>(layers & 0xffffffffU));
        add(static_cast<double>(layers >> 32U));
    }
    void add(const Turning<D>& turning) {
        add(turning.shape);
        add_layers(turning.layers);
        add(turning.way);
        add(turning.reach);
        add(turning.before);
        add(turning.angles);
    }
    void add(const Feeler<D>& feeler, const std::vector<FeelerBall<D>>& balls) {
        add(feeler.shape);
        add_layers(feeler.layers);
        add(feeler.beyond);
        add((feeler.is_body ? 1.0 : 0.0) + (feeler.deep ? 2.0 : 0.0) + (feeler.sinks ? 4.0 : 0.0) +
            (feeler.inside ? 8.0 : 0.0) + (feeler.upright ? 16.0 : 0.0));
        if (feeler.inside) add(*feeler.inside);
        if (!feeler.upright) return;
        add(balls[feeler.ball].foot);
        add(balls[feeler.ball].radius);
    }
};

}  // namespace

template <int D>
ProbeHeights<D>::ProbeHeights(const Planned<D>& planned, std::size_t facing, Feelers<D> of_probes,
                              Finds finds)
    : s_(planned),
      facing_(facing),
      feelers_(std::move(of_probes)),
      finds_(finds),
      numbers_(planned.rig.probes.size()) {
    const auto number = [&](const auto& feeler) {
        auto& kept_under = numbers_[static_cast<std::size_t>(feeler.probe)];
        if (!kept_under)
            kept_under = planned.kept.store().number_of_probe(Terms<D>(feelers_, feeler.probe).numbers);
    };
    for (const Feeler<D>& feeler : feelers_.feelers) number(feeler);
    for (const TurningFeeler<D>& feeler : feelers_.turning) number(feeler);
}

template <int D>
FeltHeights ProbeHeights<D>::at(const Place<D>& place, const HeightSpan& within,
                                const std::vector<HeightSpan>& taken) const {
    auto& store = s_.kept.store();
    NumbersKey<D> key{};
    key.numbers[0] = s_.terms[facing_];
    for (std::size_t axis = 0; axis + 1 < D; ++axis)
        key.numbers[axis + 1] = place[static_cast<std::ptrdiff_t>(axis)];
    FeltHeights all;
    std::vector<bool> wanted(numbers_.size());
    for (std::size_t probe = 0; probe < numbers_.size(); ++probe) wanted[probe] = numbers_[probe].has_value();
    const auto any_wanted = [&] { return std::find(wanted.begin(), wanted.end(), true) != wanted.end(); };
    const auto kept = finds_ == Finds::once ? store.heights.find(key) : std::nullopt;
    for (const ProbesFelt* felt = kept ? kept->get() : nullptr; felt != nullptr && any_wanted();
         felt = felt->before.get())
        take_kept(*felt, wanted, all);
    if (any_wanted()) {
        const std::vector<FeltHeights> found =
            heights_of_probes<D>(s_, facing_, feelers_, s_.grid.point(place, 0.0), within, taken, wanted);
        ProbesFelt felt;
        for (std::size_t probe = 0; probe < found.size(); ++probe) {
            if (!wanted[probe]) continue;
            const auto& [candidates, busy] = found[probe];
            all.candidates.insert(all.candidates.end(), candidates.begin(), candidates.end());
            all.busy.insert(all.busy.end(), busy.begin(), busy.end());
            felt.numbers.insert(felt.numbers.end(), {*numbers_[probe], static_cast<double>(candidates.size()),
                                                     static_cast<double>(busy.size())});
            felt.numbers.insert(felt.numbers.end(), candidates.begin(), candidates.end());
            for (const HeightSpan& span : busy)
                felt.numbers.insert(felt.numbers.end(), {span.low, span.high});
        }
        // Those that come first are of the rigs that others are held against.
        constexpr std::size_t most_asked = 16;
        const bool keeps = finds_ == Finds::once && (!kept || (*kept)->asked < most_asked);
        if (keeps && store.take_for_heights(felt.numbers.size())) {
            felt.numbers.shrink_to_fit();
            store.heights.change(key, [&](std::shared_ptr<const ProbesFelt>& latest) {
                if (latest) felt.asked += latest->asked;
                felt.before = std::move(latest);
                latest = std::make_shared<const ProbesFelt>(std::move(felt));
            });
        }
    }
    std::sort(all.candidates.begin(), all.candidates.end());
    join(all.busy);
    return all;
}

/// Adds what is kept of probes that are wanted, and wants them no more.
template <int D>
void ProbeHeights<D>::take_kept(const ProbesFelt& felt, std::vector<bool>& wanted, FeltHeights& all) const {
    for (std::size_t at = 0; at < felt.numbers.size();) {
        const double number = felt.numbers[at];
        const auto candidates = felt.numbers.begin() + static_cast<std::ptrdiff_t>(at) + 3;
        const auto ends = candidates + static_cast<std::ptrdiff_t>(felt.numbers[at + 1]);
        const auto next = ends + 2 * static_cast<std::ptrdiff_t>(felt.numbers[at + 2]);
        at = static_cast<std::size_t>(next - felt.numbers.begin());
        for (std::size_t probe = 0; probe < numbers_.size(); ++probe) {
            if (!wanted[probe] || *numbers_[probe] != number) continue;
            wanted[probe] = false;
            all.candidates.insert(all.candidates.end(), candidates, ends);
            for (auto end = ends; end != next; end += 2) all.busy.push_back({end[0], end[1]});
        }
    }
}

template class ProbeHeights<2>;
template class ProbeHeights<3>;

}  // namespace hollow_probe
