// Denavit-Hartenberg tables, both ways: links from a table, and the table of any serial chain.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// standard: T_i = Rz(theta_i) Tz(d_i) Tx(a_i) Rx(alpha_i), joint i turns about z_(i-1)
///   (J. Denavit and R. Hartenberg, 1955).
/// modified: T_i = Rx(alpha_(i-1)) Tx(a_(i-1)) Rz(theta_i) Tz(d_i), joint i turns about z_i
///   (J. Craig, "Introduction to Robotics", 1986); its row i holds a and alpha of i - 1.
enum class DhForm { standard, modified };

std::string_view name_of(DhForm form);

/// One joint. SI. A revolute joint has theta = `theta` + q, a prismatic one d = `d` + q; with
/// `reversed` it is minus q.
struct DhRow {
  double theta = 0.0;
  double d = 0.0;
  double a = 0.0;
  double alpha = 0.0;
  JointKind kind = JointKind::revolute;
  bool reversed = false;
  bool continuous = false;
  JointLimits limits = {};
  std::string joint = {};  ///< its name; may be empty
  std::string link = {};   ///< the name of the link it carries; empty is link_1, link_2, ...
  double damping = 0.0;    ///< as in Joint
  double friction = 0.0;
};

struct DhTable {
  DhForm form = DhForm::standard;
  std::string base_link = "base";
  Pose base = {};  ///< frame 0 in the base link's frame
  std::vector<DhRow> rows = {};
  Pose end = {};  ///< the tool's tip in the last frame
};

/// The base link and one link per row. Every link's frame lies on its own joint's axis, as all
/// links of Elbowroom do: z along the axis, x along x_i turned back by nothing. In the standard
/// form the stretch a_i, alpha_i after the last joint becomes a fixed link "flange", where it is
/// not nil.
std::vector<Link> links_from(const DhTable& table);

/// The table of the chain from the base to a tool's tip. Where the geometry leaves a choice
/// (parallel or crossing axes) the smaller offset and angle are taken. A no when a joint on the way
/// follows another one: no table can say that.
Verdict<DhTable> dh_table_of(const Arm& arm, const Tool& tool, DhForm form);

/// The table as text, mm and deg, with what theta or d does.
std::string text_of(const DhTable& table);

}  // namespace er
