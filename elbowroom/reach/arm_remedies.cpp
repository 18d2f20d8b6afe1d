#include "elbowroom/reach/arm_remedies.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <optional>
#include <variant>

#include "elbowroom/base/units.hpp"
#include "elbowroom/reach/least_change.hpp"

namespace er {
namespace {

bool does_it(const CellQuery& query, const Arm& changed, const Target& target,
             const ReachOptions& options) {
  return would_do(query.with_arm(changed), target, options);
}

// The frame that all requirements are of; none where they differ.
std::optional<std::string> only_frame(const Target& target) {
  std::optional<std::string> only;
  for (const Requirement& one : target.requirements()) {
    if (!one.on || std::holds_alternative<JointBands>(one.holds)) continue;
    if (only && *only != one.of) return std::nullopt;
    only = one.of;
  }
  return only;
}

void try_mounts(const CellQuery& query, const Target& target, const ReachOptions& options,
                std::vector<Remedy>& out) {
  const Pose& mount = query.arm().mount();
  for (const double lift : {0.05, -0.05, 0.1, -0.1, 0.2, -0.2, 0.4}) {
    const Pose lifted{mount.rotation, mount.position + lift * Vector3::UnitZ()};
    if (!does_it(query, query.arm().mounted_at(lifted), target, options)) continue;
    out.push_back({fmt::format("{} the arm's mount by {}", lift > 0.0 ? "lift" : "lower",
                               text_length(std::abs(lift)))});
    return;
  }
}

void try_longer_tools(const CellQuery& query, const Target& target, const ReachOptions& options,
                      std::vector<Remedy>& out) {
  const std::optional<std::string> name = only_frame(target);
  if (!name) return;
  for (const double longer : {0.02, 0.05, 0.1, 0.2}) {
    ArmDescription description = query.arm().description();
    Tool* tool = nullptr;
    for (Tool& one : description.tools)
      if (one.name == *name || (name->empty() && tool == nullptr)) tool = &one;
    if (tool == nullptr) return;  // the target is about a link
    tool->tip.position += longer * tool->tip.rotation.col(2);
    const std::string which = tool->name;
    if (!does_it(query, Arm::build(std::move(description)), target, options)) continue;
    out.push_back({fmt::format("make tool {} {} longer (its tip; its shape is not counted)", which,
                               text_length(longer))});
    return;
  }
}

}  // namespace

std::vector<Remedy> arm_remedies(const CellQuery& query, const Target& target,
                                 const ReachOptions& options) {
  std::vector<Remedy> out;
  try_mounts(query, target, options, out);
  try_longer_tools(query, target, options, out);
  return out;
}

}  // namespace er
