// Writing an arm in C++, link by link, in the order of the chain.
//
//   const Arm arm = ArmBuilder("lever")
//                       .base("foot").part({.shape = Cylinder{30.0_mm, 40.0_mm}})
//                       .turns("bar", Vector3::UnitZ()).at({0, 0, 60.0_mm})
//                           .range(-90.0_deg, 90.0_deg).speed(90.0_deg).acceleration(300.0_deg)
//                           .part(capsule_between({0, 0, 0}, {300.0_mm, 0, 0}, 20.0_mm))
//                       .tool("tip", Pose::at({300.0_mm, 0, 0}))
//                       .stance("home", {0.0})
//                       .build();
#pragma once

#include <string>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// What is said after a link speaks of that link and of the joint that carries it. Everything is in
/// SI. Nothing is checked before `build`, which throws what Arm::build throws.
class ArmBuilder {
 public:
  explicit ArmBuilder(std::string name);

  ArmBuilder& mount(const Pose& mount);

  /// The next link of the chain, and how it is carried by the one before; `axis` is in its frame.
  ArmBuilder& base(std::string link);
  ArmBuilder& turns(std::string link, const Vector3& axis);
  ArmBuilder& slides(std::string link, const Vector3& axis);
  ArmBuilder& fixed(std::string link);
  /// Every link of a list that was made another way: links_from a data sheet or a table.
  ArmBuilder& links(std::vector<Link> links);

  ArmBuilder& on(std::string parent);       ///< carried by this link, not by the one before
  ArmBuilder& joint(std::string name);      ///< named after its links when left out
  ArmBuilder& at(const Vector3& position);  ///< of the joint, in the link before
  ArmBuilder& at(const Pose& pose);
  ArmBuilder& range(double lower, double upper);
  ArmBuilder& continuous();
  ArmBuilder& speed(double most);
  /// Where it may go faster one way than the other.
  ArmBuilder& speed(const WayLimits& ways);
  ArmBuilder& acceleration(double most);
  ArmBuilder& acceleration(const WayLimits& ways);
  ArmBuilder& jerk(double most);
  ArmBuilder& torque(double most);
  /// How far it is turned or slid when it reads zero, and whether it counts the other way.
  ArmBuilder& zero(double value, bool reversed = false);
  ArmBuilder& follows(std::string joint, double ratio = 1.0, double offset = 0.0);
  ArmBuilder& part(const Part& part);
  ArmBuilder& inertial(const Inertial& inertial);

  /// A tool on the link last said.
  ArmBuilder& tool(std::string name, const Pose& tip);
  ArmBuilder& stance(std::string name, const std::vector<double>& values);
  ArmBuilder& station(std::string name, const Pose& mount);

  [[nodiscard]] Arm build() const { return Arm::build(description()); }
  [[nodiscard]] ArmDescription description() const;

 private:
  Link& last();
  ArmBuilder& carried(std::string link, JointKind kind, const Vector3& axis);

  // Kept until the end: they turn the joint as it is placed by then.
  struct Zero {
    std::size_t link;
    double value;
    bool reversed;
  };
  ArmDescription description_;
  std::vector<Zero> zeros_;
};

}  // namespace er
