// All that a survey depends on, in a few letters.
#include "hollow_probe/level/content_hash.hpp"
#include "hollow_probe/rig/fields.hpp"
#include "hollow_probe/verify/survey_part.hpp"
#include "verify/cause_bytes.hpp"

namespace hollow_probe {
namespace {

class Inputs {
  public:
    template <class Value>
    void add(Value value) {
        members(writer_, value);
    }
    /// The values of all fields of some owners, bit by bit.
    template <class Owner>
    void add(std::span<const Field<Owner>> fields, const Owner& owner) {
        for (const Field<Owner>& field : fields) add(field.get(owner));
    }
    template <class Owner>
    void add(std::span<const Field<Owner>> fields, const std::vector<Owner>& owners) {
        add(owners.size());
        for (const Owner& owner : owners) add(fields, owner);
    }
    [[nodiscard]] std::string hash() const { return content_hash(writer_.bytes); }

  private:
    ByteWriter writer_;
};

}  // namespace

template <int D>
std::string survey_inputs(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options) {
    Inputs inputs;
    inputs.add(content_hash<D>(level));
    inputs.add(rig.body.meets);
    inputs.add(rig.body.layer);
    inputs.add(rig.body.turns);
    inputs.add(rig.body.faces);
    inputs.add(rig.reads);
    inputs.add(stance_fields<D>(), rig.body.stances);
    inputs.add(intent_fields(), rig.intent);
    inputs.add(rig.probes.size());
    for (const Probe<D>& probe : rig.probes) {
        inputs.add(probe.kind());
        inputs.add(probe_fields<D>(), probe);
    }
    inputs.add(signal_fields(), rig.signals);
    inputs.add(options.spacing);
    inputs.add(options.headings);
    inputs.add(options.stances);
    inputs.add(options.border_fraction);
    inputs.add(options.most_corner_columns);
    inputs.add(options.seed);
    inputs.add(options.budget);
    inputs.add(options.area);
    inputs.add(options.region);
    inputs.add(options.speeds);
    inputs.add(options.tick_seconds);
    inputs.add(options.times);
    inputs.add(options.explain);
    inputs.add(options.most_kept);
    return inputs.hash();
}

template std::string survey_inputs<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&);
template std::string survey_inputs<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&);

}  // namespace hollow_probe
