// Closed forms: all postures of a chain for a tip pose, by the form that the geometry of its axes
// allows, found from the axes themselves.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <variant>

#include "elbowroom/reach/closed_solutions.hpp"
#include "elbowroom/reach/general_six.hpp"
#include "elbowroom/reach/parallel_axes.hpp"
#include "elbowroom/reach/spherical_wrist.hpp"
#include "elbowroom/reach/three_parallel.hpp"

namespace er {

class ClosedForm {
 public:
  /// The form of a chain: a spherical wrist, or shoulder; three parallel axes beside two that meet;
  /// all axes parallel (planar arms, SCARAs); or six turning joints of any geometry. Nothing for
  /// other chains.
  static std::optional<ClosedForm> of(const ScrewChain& chain);
  /// The same for the chain that carries a tool.
  static std::optional<ClosedForm> of(const Arm& arm, const Tool& tool);

  /// The form in words for people: "spherical wrist (axes 4, 5 and 6 meet in one point; ...)".
  [[nodiscard]] std::string text() const { return data_->name + " (" + data_->why + ")"; }

  /// All postures of the chain for a pose of the tip in the world, each turn within [-pi, pi],
  /// whatever the ranges of the joints, and whether they are all. Each is polished on the exact
  /// chain.
  void solve(const Pose& tip, ClosedSolutions& out) const;

  /// Shoulder, elbow and bend: "front, up, +", from where the axes are in a posture; empty where a
  /// chain has no such branches. Front is the side that the wrist is on when all joints are zero,
  /// up is the world's z, bend + is a positive turn of joint 5 out of line.
  [[nodiscard]] std::string branch(const ClosedSolution& solution) const;

  [[nodiscard]] const ScrewChain& chain() const { return data_->chain; }
  /// Why it has this form: "axes 4, 5 and 6 meet in one point; axes 2 and 3 parallel".
  [[nodiscard]] const std::string& why() const { return data_->why; }
  /// "spherical wrist".
  [[nodiscard]] const std::string& name() const { return data_->name; }

 private:
  using Form = std::variant<SphericalWrist, ThreeParallel, ParallelAxes, GeneralSix>;
  struct Data {
    ScrewChain chain;
    LaneChain lanes;
    Form form;
    bool reversed = false;  // the form is that of the chain seen from the tip
    std::string name;
    std::string why;
    std::optional<Vector3> wrist = {};  // the point that tells branches apart, all joints zero
  };
  explicit ClosedForm(Data data) : data_(std::make_shared<const Data>(std::move(data))) {}
  std::shared_ptr<const Data> data_;
};

/// What solves the targets of a tool, and why: its closed form, that of seven joints, or numeric
/// starts.
std::string solver_text(const Arm& arm, const Tool& tool);

}  // namespace er
