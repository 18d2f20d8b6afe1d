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
#include "elbowroom/reach/standing_joints.hpp"
#include "elbowroom/reach/three_parallel.hpp"
#include "elbowroom/reach/three_slides.hpp"

namespace er {

class ClosedForm {
 public:
  /// The form of a chain: three joints that slide among six; a spherical wrist, or shoulder, and
  /// any other three joints; three parallel axes beside two that meet; all axes parallel (planar
  /// arms, SCARAs); six turning joints of any geometry; or three to five, as six of which the
  /// others stand still, for what poses such an arm can do. Nothing for other chains, and for six
  /// joints that are singular in every posture.
  static std::optional<ClosedForm> of(const ScrewChain& chain);
  /// The same for the chain that carries a tool.
  static std::optional<ClosedForm> of(const Arm& arm, const Tool& tool);

  /// Five joints and a tool that may turn as it likes about `axis` (unit, in the tip's frame): all
  /// postures for a place and the way that axis points, the turn being a sixth joint. Nothing where
  /// the last joint turns about that axis itself, and for other chains.
  static std::optional<ClosedForm> of_axis(const ScrewChain& chain, const Vector3& axis);

  /// The form in words for people: "spherical wrist (axes 4, 5 and 6 meet in one point; ...)".
  [[nodiscard]] std::string text() const { return data_->told.name + " (" + data_->told.why + ")"; }

  /// All postures of the chain for a pose of the tip in the world, each turn within [-pi, pi],
  /// whatever the ranges of the joints, and whether they are all. Each is polished on the exact
  /// chain.
  void solve(const Pose& tip, ClosedSolutions& out) const;

  /// Which branch a posture is of, in words that branch_legend() explains; empty where a chain has
  /// no such branches. With a wrist, shoulder, elbow and bend: "front, up, +" (of fewer than six
  /// joints without the bend, of joints that slide without what they leave no choice in); front is
  /// the side that the wrist is on when all joints are zero, up is the world's z. With parallel
  /// axes, a shoulder that is a point, or three slides, the sign of the bend of three that turn: +
  /// is a positive turn of the middle joint out of line.
  [[nodiscard]] std::string branch(const ClosedSolution& solution) const;
  [[nodiscard]] std::string branch_legend() const;

  /// Not six joints of general geometry, which takes longest.
  [[nodiscard]] bool is_special() const { return !std::holds_alternative<GeneralSix>(data_->form); }

  /// What the solutions are of: the arm's joints, and a tool's free turn behind them (`of_axis`).
  [[nodiscard]] const ScrewChain& chain() const { return data_->chain; }
  [[nodiscard]] int joints() const { return data_->joints; }
  /// Why it has this form: "axes 4, 5 and 6 meet in one point; axes 2 and 3 parallel".
  [[nodiscard]] const std::string& why() const { return data_->told.why; }
  /// "spherical wrist".
  [[nodiscard]] const std::string& name() const { return data_->told.name; }

 private:
  using Form = std::variant<ThreeSlides, SphericalWrist, ThreeParallel, ParallelAxes, GeneralSix>;
  struct Told {
    bool reversed = false;  // the form is that of the chain seen from the tip
    std::string name = {};
    std::string why = {};
    std::optional<Vector3> wrist = {};  // the point that tells branches apart, all joints zero
  };
  struct Data {
    ScrewChain chain;      // what the solutions are of
    StandingJoints six;    // what the form solves: the same, or with joints that stand still
    LaneChain lanes = {};  // of that
    Form form;
    Told told;
    int joints = 0;  // of the arm's own
    // Of fewer than six that turn: another, for poses where this one is not sure.
    std::shared_ptr<const ClosedForm> doubted_by = {};
  };
  static ClosedForm made(const StandingJoints& six, Form form, Told told);
  static std::optional<ClosedForm> of_special(const StandingJoints& six);
  static std::optional<ClosedForm> of_general(const StandingJoints& six);
  static std::optional<ClosedForm> of_fewer(const ScrewChain& chain);
  // What the branches of a form with a wrist are told apart by.
  struct Sides {
    bool shoulder = false;
    bool elbow = false;
    bool bend = false;
  };
  [[nodiscard]] Sides sides() const;
  [[nodiscard]] std::string bend(const ClosedSolution& solution) const;
  void settle_all(const Pose& tip, ClosedSolutions& out) const;
  int keep_met(const Pose& tip, ClosedSolutions& out) const;
  void ask_another(const Pose& tip, ClosedSolutions& out) const;
  [[nodiscard]] bool is_of_fewer() const { return data_->six.own < data_->six.chain.size(); }
  explicit ClosedForm(Data data) : data_(std::make_shared<const Data>(std::move(data))) {}
  std::shared_ptr<const Data> data_;
};

}  // namespace er
