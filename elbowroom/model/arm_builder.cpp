#include "elbowroom/model/arm_builder.hpp"

#include "elbowroom/base/input_error.hpp"

namespace er {

ArmBuilder::ArmBuilder(std::string name) { description_.name = std::move(name); }

Link& ArmBuilder::last() {
  if (description_.links.empty())
    throw InputError("an arm begins with its base", "say base(\"...\") first");
  return description_.links.back();
}

ArmBuilder& ArmBuilder::carried(std::string link, JointKind kind, const Vector3& axis) {
  Link next{.name = std::move(link)};
  next.joint.kind = kind;
  next.joint.axis = axis;
  description_.links.push_back(std::move(next));
  return *this;
}

ArmBuilder& ArmBuilder::mount(const Pose& mount) {
  description_.mount = mount;
  return *this;
}
ArmBuilder& ArmBuilder::base(std::string link) { return fixed(std::move(link)); }
ArmBuilder& ArmBuilder::turns(std::string link, const Vector3& axis) {
  return carried(std::move(link), JointKind::revolute, axis);
}
ArmBuilder& ArmBuilder::slides(std::string link, const Vector3& axis) {
  return carried(std::move(link), JointKind::prismatic, axis);
}
ArmBuilder& ArmBuilder::fixed(std::string link) {
  return carried(std::move(link), JointKind::fixed, Vector3::UnitZ());
}
ArmBuilder& ArmBuilder::links(std::vector<Link> links) {
  for (Link& link : links) description_.links.push_back(std::move(link));
  return *this;
}

ArmBuilder& ArmBuilder::on(std::string parent) {
  last().parent = std::move(parent);
  return *this;
}
ArmBuilder& ArmBuilder::joint(std::string name) {
  last().joint.name = std::move(name);
  return *this;
}
ArmBuilder& ArmBuilder::at(const Vector3& position) { return at(Pose::at(position)); }
ArmBuilder& ArmBuilder::at(const Pose& pose) {
  last().joint.origin = pose;
  return *this;
}
ArmBuilder& ArmBuilder::range(double lower, double upper) {
  last().joint.limits.lower = lower;
  last().joint.limits.upper = upper;
  return *this;
}
ArmBuilder& ArmBuilder::continuous() {
  last().joint.continuous = true;
  return *this;
}
ArmBuilder& ArmBuilder::speed(double most) {
  last().joint.limits.velocity = most;
  return *this;
}
ArmBuilder& ArmBuilder::speed(const WayLimits& ways) {
  last().joint.limits.velocity_ways = ways;
  return *this;
}
ArmBuilder& ArmBuilder::acceleration(const WayLimits& ways) {
  last().joint.limits.acceleration_ways = ways;
  return *this;
}
ArmBuilder& ArmBuilder::acceleration(double most) {
  last().joint.limits.acceleration = most;
  return *this;
}
ArmBuilder& ArmBuilder::jerk(double most) {
  last().joint.limits.jerk = most;
  return *this;
}
ArmBuilder& ArmBuilder::torque(double most) {
  last().joint.limits.torque = most;
  return *this;
}
ArmBuilder& ArmBuilder::zero(double value, bool reversed) {
  last();  // there is one
  zeros_.push_back({description_.links.size() - 1, value, reversed});
  return *this;
}
ArmBuilder& ArmBuilder::follows(std::string joint, double ratio, double offset) {
  last().joint.follow = {std::move(joint), ratio, offset};
  return *this;
}
ArmBuilder& ArmBuilder::part(const Part& part) {
  last().parts.push_back(part);
  return *this;
}
ArmBuilder& ArmBuilder::inertial(const Inertial& inertial) {
  last().inertial = inertial;
  return *this;
}

ArmBuilder& ArmBuilder::tool(std::string name, const Pose& tip) {
  description_.tools.push_back({std::move(name), last().name, tip});
  return *this;
}
ArmBuilder& ArmBuilder::stance(std::string name, const std::vector<double>& values) {
  description_.stances.push_back(
      {std::move(name),
       Eigen::Map<const Eigen::VectorXd>(values.data(), static_cast<Eigen::Index>(values.size()))});
  return *this;
}
ArmBuilder& ArmBuilder::station(std::string name, const Pose& mount) {
  description_.stations.push_back({std::move(name), mount});
  return *this;
}

ArmDescription ArmBuilder::description() const {
  ArmDescription out = description_;
  for (const Zero& zero : zeros_)
    set_zero_and_sense(out.links[zero.link].joint, zero.value, zero.reversed);
  return out;
}

}  // namespace er
