#include "elbowroom/model/arms_as_one.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

// A link of one of the arms, as a link of them all.
Link renamed(const Arm& arm, std::size_t index, int number, const std::string& root,
             const Pose& middle) {
  const std::string before = arm.name() + ".";
  Link link = arm.links()[index];
  link.arm = number;
  link.name = before + link.name;
  if (index == 0) {
    link.parent = root;
    link.joint.origin = middle.inverse() * arm.mount() * link.joint.origin;
    return link;
  }
  link.parent = before + link.parent;
  link.joint.name = before + link.joint.name;
  if (!link.joint.follow.joint.empty()) link.joint.follow.joint = before + link.joint.follow.joint;
  return link;
}

}  // namespace

Arm arms_as_one(const std::vector<Arm>& arms) {
  if (arms.size() < 2) throw InputError("one arm alone is one already", "name two or more");
  std::vector<std::string> names;
  // Its own frame lies in the middle, so that nothing is far from it.
  Pose middle;
  for (const Arm& arm : arms) {
    names.push_back(arm.name());
    middle.position += arm.mount().position / static_cast<double>(arms.size());
  }
  ArmDescription all{.name = name_as_one(names), .mount = middle};
  all.links.push_back({.name = all.name});
  int number = 0;
  for (const Arm& arm : arms) {
    ++number;
    for (std::size_t i = 0; i < arm.links().size(); ++i)
      all.links.push_back(renamed(arm, i, number, all.name, middle));
    for (Tool tool : arm.tools()) {
      tool.name = arm.name() + "." + tool.name;
      tool.link = arm.name() + "." + tool.link;
      all.tools.push_back(std::move(tool));
    }
    for (HeldJoint held : arm.description().held) {
      held.joint = arm.name() + "." + held.joint;
      all.held.push_back(std::move(held));
    }
  }
  return Arm::build(std::move(all));
}

Cell with_arms_as_one(const Cell& cell, const std::vector<std::string>& arms) {
  std::vector<Arm> taken;
  for (const std::string& name : arms) taken.push_back(cell.arm(name));
  CellDescription changed = cell.description();
  std::erase_if(changed.arms, [&](const Arm& arm) {
    return std::find(arms.begin(), arms.end(), arm.name()) != arms.end();
  });
  changed.arms.push_back(arms_as_one(taken));
  return Cell::build(std::move(changed));
}

std::string name_as_one(const std::vector<std::string>& arms) {
  return fmt::format("{}", fmt::join(arms, "+"));
}

std::vector<Tool> first_tools(const Arm& arm) {
  std::vector<Tool> out;
  int last = -1;
  for (const Tool& tool : arm.tools()) {
    const int of = arm.links()[static_cast<std::size_t>(tool.link_index)].arm;
    if (of != last) out.push_back(tool);
    last = of;
  }
  return out;
}

Posture side_by_side(const std::vector<Posture>& postures) {
  Eigen::Index size = 0;
  for (const Posture& one : postures) size += one.size();
  Posture out(size);
  Eigen::Index at = 0;
  for (const Posture& one : postures) {
    out.segment(at, one.size()) = one;
    at += one.size();
  }
  return out;
}

}  // namespace er
