#include "elbowroom/kinematics/target.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"

namespace er {

Target& Target::place(std::string tool, const Pose& pose) {
  Requirement asked{.name = "place", .of = std::move(tool), .holds = AtPlace{.at = pose}};
  for (Requirement& one : requirements_) {
    if (one.name != asked.name) continue;
    asked.position_tolerance = one.position_tolerance;
    asked.angle_tolerance = one.angle_tolerance;
    return changed(std::move(asked));
  }
  return require(std::move(asked));
}

Target& Target::require(Requirement requirement) {
  const auto is_taken = [&](const std::string& name) {
    return std::any_of(requirements_.begin(), requirements_.end(),
                       [&](const Requirement& one) { return one.name == name; });
  };
  if (requirement.name.empty()) {
    requirement.name = requirement.kind();
    for (int number = 2; is_taken(requirement.name); ++number)
      requirement.name = fmt::format("{} {}", requirement.kind(), number);
  }
  if (is_taken(requirement.name))
    throw InputError(fmt::format("two requirements are called '{}'", requirement.name),
                     "give each a name of its own");
  check_requirement(requirement);
  requirements_.push_back(std::move(requirement));
  return *this;
}

Target& Target::within(double position, double angle) {
  if (requirements_.empty())
    throw InputError("a tolerance is given before any requirement",
                     "call place() or require() first");
  Requirement changed = requirements_.back();
  changed.position_tolerance = position;
  changed.angle_tolerance = angle;
  check_requirement(changed);
  requirements_.back() = std::move(changed);
  return *this;
}

Target& Target::switched(const std::string& requirement, bool on) {
  named_requirement(requirement).on = on;
  return *this;
}

Target& Target::changed(Requirement requirement) {
  check_requirement(requirement);
  named_requirement(requirement.name) = std::move(requirement);
  return *this;
}

Requirement& Target::named_requirement(const std::string& name) {
  std::vector<std::string> known;
  for (Requirement& one : requirements_) {
    if (one.name == name) return one;
    known.push_back(one.name);
  }
  throw unknown_name("requirement", name, known);
}

Target& Target::wish(Wishes wishes) {
  for (const double weight : {wishes.travel, wishes.room, wishes.limits, wishes.dexterity,
                              wishes.load, wishes.branch_cost})
    if (!(weight >= 0.0) || !std::isfinite(weight))
      throw InputError(
          fmt::format("the weight of a wish must be zero or more, found {:g}", weight));
  wishes_ = std::move(wishes);
  return *this;
}

Target& Target::keep_clear(double clearance) {
  if (!(clearance >= 0.0) || !std::isfinite(clearance))
    throw InputError(
        fmt::format("a clearance must be zero or more, found {} mm", to_mm(clearance)));
  clearance_ = clearance;
  return *this;
}

Target& Target::named(std::string name) {
  name_ = std::move(name);
  return *this;
}

const Requirement* Target::full_pose() const {
  const Requirement* only = nullptr;
  for (const Requirement& one : requirements_) {
    if (!one.on) continue;
    const AtPlace* place = std::get_if<AtPlace>(&one.holds);
    if (only != nullptr || place == nullptr || !place->is_full()) return nullptr;
    only = &one;
  }
  return only;
}

const AtPlace* Target::first_place() const {
  for (const Requirement& one : requirements_)
    if (const AtPlace* place = std::get_if<AtPlace>(&one.holds); place != nullptr && one.on)
      return place;
  return nullptr;
}

const Requirement& Target::need_full_pose() const {
  if (const Requirement* only = full_pose()) return *only;
  throw InputError(
      fmt::format("target '{}' is not one full pose of a tool, as is needed here", name_),
      "give its place exactly, with an orientation, and nothing else");
}

const std::string& Target::tool() const { return need_full_pose().of; }

Pose Target::pose() const { return std::get_if<AtPlace>(&need_full_pose().holds)->frame_pose(); }

Target Target::with_pose(const Pose& pose) const {
  Requirement changed = need_full_pose();
  changed.holds = AtPlace{.at = pose};
  return Target(*this).changed(std::move(changed));
}

namespace {

void move_holds(AtPlace& holds, const Pose& by) { holds.at = by * holds.at; }
void move_holds(InDirection& holds, const Pose& by) {
  holds.along = by.rotation * holds.along;
  holds.point = by * holds.point;
}
void move_holds(AtDistance& holds, const Pose& by) { holds.point = by * holds.point; }
void move_holds(InRoom& holds, const Pose& by) { holds.at = by * holds.at; }
void move_holds(InSight& holds, const Pose& by) {
  for (Vector3& point : holds.points) point = by * point;
  holds.normal = by.rotation * holds.normal;
}
void move_holds(JointBands& /*holds*/, const Pose& /*by*/) {}

}  // namespace

Target Target::moved_by(const Pose& by) const {
  Target out = *this;
  for (Requirement& one : out.requirements_)
    std::visit([&](auto& holds) { move_holds(holds, by); }, one.holds);
  return out;
}

std::vector<std::string> Target::leaves_open() const {
  std::vector<std::string> out;
  for (const Requirement& one : requirements_)
    if (one.on)
      for (std::string& open : one.leaves_open()) out.push_back(std::move(open));
  return out;
}

std::string Target::report(std::string_view indent) const {
  std::string out;
  for (const Requirement& one : requirements_)
    out += fmt::format("{}{}: {}{}\n", indent, one.name, one.text(), one.on ? "" : " (off)");
  if (clearance_ > 0.0) out += fmt::format("{}clearance: {}\n", indent, text_length(clearance_));
  return out;
}

}  // namespace er
