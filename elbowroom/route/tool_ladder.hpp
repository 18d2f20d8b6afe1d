// A whole tool move at once: all branches of postures, and all that the tool may be turned, at
// every place of the path; the quickest way through them that never jumps.
//
// Rungs stand at even steps of the path. On each, all postures for a grid of turns; those of
// neighbouring rungs are joined where no joint goes far. The quickest way to the end is worked out
// backwards from there, for every posture (dynamic programming; R. Bellman, 1957). Whether a
// posture is free is looked at only on the way that is chosen, and with it the whole rung.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/collision/free_postures.hpp"
#include "elbowroom/route/pose_postures.hpp"
#include "elbowroom/route/tool_curve.hpp"

namespace er {

/// What a tool move leaves open along its whole path, in the tool's axes.
struct ToolFreedom {
  Band turn = {};     ///< rad about the tool's z
  double tilt = 0.0;  ///< rad that z may lean any way
  int turns = 36;     ///< looked at over a full turn

  [[nodiscard]] bool is_none() const { return turn.is_exact() && tilt == 0.0; }
};

class ToolLadder {
 public:
  /// Throws InputError for a freedom that means nothing. `query` must outlive it.
  ToolLadder(const CellQuery& query, const std::string& tool, const ToolPath& path,
             const ToolFreedom& freedom, const ToolCurveOptions& options = {});

  /// The quickest curve from `start`, proved free. A no says how far any way gets, and what ends it
  /// there.
  Verdict<ToolCurve> curve_from(const Posture& start) { return curve(&start, start); }
  /// The same from wherever it is quickest, getting there from `near` counted in for a part.
  Verdict<ToolCurve> curve_near(const Posture& near) { return curve(nullptr, near); }
  /// Ways that end within `apart` (rad or m of every joint) of a posture are not looked for any
  /// more.
  void leave_out_end(const Posture& end, double apart);
  /// Postures to begin in from which the path can be followed to its end, the quickest first, each
  /// of another branch or well turned from those before; free themselves, the rest not looked at.
  std::vector<Posture> starts(const Posture& near, std::size_t most);

  [[nodiscard]] std::size_t rungs() const { return rungs_.size(); }
  [[nodiscard]] std::size_t postures() const;

 private:
  struct Offset {
    double lean_x = 0.0;
    double lean_y = 0.0;
    double turn = 0.0;
  };
  struct Node {
    Posture posture;
    int offset = 0;
    double to_end = 0.0;  // s at least, to the end of the path
    int next = -1;
    bool blocked = false;
  };
  struct Rung {
    std::vector<Node> nodes;
    std::vector<std::size_t> of_offset;  // where the nodes of each offset begin; and the end
    bool looked_at = false;
  };

  void make_offsets();
  void make_rung(std::size_t number);
  void make_rungs_by_steps(const Posture& start);
  void add_rung(Rung& rung, const std::vector<std::pair<int, Posture>>& postures) const;
  void work_out(std::size_t from);
  bool join(Node& node, const Rung& next) const;
  [[nodiscard]] double step_time(const Posture& a, const Posture& b) const;
  void look_at(std::size_t number);
  [[nodiscard]] Verdict<std::vector<Node>> way_from(Node start);
  [[nodiscard]] std::optional<Node> node_of(const Posture& start) const;
  Verdict<ToolCurve> curve(const Posture* start, const Posture& near);
  [[nodiscard]] double cost_near(const Node& node, const Posture& near) const;
  [[nodiscard]] const Node* best_start(const Posture& near) const;
  Verdict<ToolCurve> curve_of(const std::vector<Node>& way, double& blocked_at) const;
  [[nodiscard]] Verdict<ToolCurve> spared_curve(const std::vector<Node>& way,
                                                const ToolPath& path) const;
  [[nodiscard]] Reason how_far(const std::optional<Node>& start) const;
  [[nodiscard]] double parameter(std::size_t rung) const;
  [[nodiscard]] Pose pose(double parameter, const Offset& offset) const;

  const CellQuery& query_;
  Tool tool_;
  ToolPath path_;
  ToolFreedom freedom_;
  ToolCurveOptions options_;
  PosePostures postures_;
  PostureChecker checker_;
  std::vector<Offset> offsets_;
  std::vector<std::vector<int>> neighbours_;  // of each offset, itself among them
  std::vector<Rung> rungs_;
};

/// Whether more than six joints move a tool.
bool has_joints_to_spare(const Arm& arm, const Tool& tool);

/// The quickest way to follow a path with what is left open, from `start`. Without any freedom,
/// what follow_tool_path gives; where that does not do and the arm has joints to spare, what they
/// can do about it.
Verdict<ToolCurve> follow_freely(const CellQuery& query, const std::string& tool,
                                 const ToolPath& path, const ToolFreedom& freedom,
                                 const Posture& start, const ToolCurveOptions& options = {});

/// The same to several ends that are well apart from each other, `most` at most, the quickest
/// first; something has to be left open.
Verdict<std::vector<ToolCurve>> follow_freely_to_ends(const CellQuery& query,
                                                      const std::string& tool, const ToolPath& path,
                                                      const ToolFreedom& freedom,
                                                      const Posture& start, std::size_t most,
                                                      const ToolCurveOptions& options = {});

/// What would let a tool move be done whole that cannot be from `start`: another posture to begin
/// in, or the turn about the tool's axis left open. Each was solved and proved.
std::vector<Remedy> ways_to_do_whole(const CellQuery& query, const std::string& tool,
                                     const ToolPath& path, const Posture& start,
                                     const ToolCurveOptions& options = {});

}  // namespace er
