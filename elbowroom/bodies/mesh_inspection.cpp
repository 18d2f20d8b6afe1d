#include "elbowroom/bodies/mesh_inspection.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/hull.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

constexpr double kUnsure = 5e-3;  // m; a proposal that is better by less is a guess

// The length of the longest way from the mount to the end of a link, at zero.
double length_of(const Arm& arm) {
  double longest = 0.0;
  const std::vector<Pose> at = link_poses(arm, Posture::Zero(arm.dof()));
  for (std::size_t l = 0; l < at.size(); ++l) {
    double sum = 0.0;
    for (int k = static_cast<int>(l); arm.links()[static_cast<std::size_t>(k)].parent_index >= 0;) {
      const int parent = arm.links()[static_cast<std::size_t>(k)].parent_index;
      sum +=
          (at[static_cast<std::size_t>(k)].position - at[static_cast<std::size_t>(parent)].position)
              .norm();
      k = parent;
    }
    longest = std::max(longest, sum);
  }
  return longest;
}

std::string label(const MeshBody& body) {
  return body.surface.name.empty() ? fmt::format("body {}", body.number)
                                   : fmt::format("body {} ({})", body.number, body.surface.name);
}

std::string skin_text(const MeshBody& body) {
  if (body.health.open_edges > 0) return fmt::format("OPEN, {} edges", body.health.open_edges);
  if (body.health.turned_edges > 0) return "FACES BOTH WAYS";
  if (!(std::abs(body.health.volume) > 1e-9 * body.health.area * body.size().norm()))
    return "A SHEET";
  std::string out = "closed";
  if (body.hollows > 0)
    out += body.hollows == 1 ? ", a hollow" : fmt::format(", {} hollows", body.hollows);
  if (body.turned) out += ", turned over";
  return out;
}

bool is_solid(const MeshBody& body) {
  return body.health.is_closed() &&
         std::abs(body.health.volume) > 1e-9 * body.health.area * body.size().norm();
}

Bulge bulge_of_hull(const MeshBody& body) {
  try {
    return bulge_of(hull_of(body.surface.corners), body, 5e-3 * body.size().norm());
  } catch (const InputError&) {
    return {};  // all in one plane; which is said of it anyway
  }
}

void look_at_bodies(MeshInspection& out) {
  for (const MeshBody& body : out.bodies.list) {
    if (!body.health.is_closed())
      out.wrong.push_back(fmt::format("{} is {}", label(body), body.health.text(body.surface)));
    else if (!is_solid(body))
      out.wrong.push_back(fmt::format("{} is a sheet: it holds nothing", label(body)));
    if (body.health.slivers > 0)
      out.odd.push_back(
          fmt::format("{} has {} triangles of no area", label(body), body.health.slivers));
    if (body.turned)
      out.odd.push_back(fmt::format("{} faced inwards and was turned over", label(body)));
  }
  for (const std::string& done : out.bodies.mended) out.odd.push_back("mended: " + done);
}

void propose(MeshInspection& out, const Arm& arm) {
  out.proposed = propose_links(out.bodies, arm);
  out.links.clear();
  for (const BodyOnLink& one : out.proposed) out.links.push_back(one.link);
}

void look_at_links(MeshInspection& out) {
  const Arm& arm = *out.asked.arm;
  std::vector<bool> has_body(arm.links().size(), false);
  for (const int link : out.links)
    if (link >= 0) has_body[static_cast<std::size_t>(link)] = true;
  for (const AxisFit& fit : out.axes) {
    if (fit.doubt)
      out.wrong.push_back(fmt::format("joint {}: {}", fit.joint, text_of(fit)));
    else if (!fit.feature)
      out.odd.push_back(fmt::format("joint {}: nothing round is near its axis", fit.joint));
  }
  for (const BodyOnLink& one : out.proposed) {
    const MeshBody& body = out.bodies.numbered(one.body);
    if (one.spans)
      out.wrong.push_back(
          fmt::format("{} goes over from {} to the links next to it: cut it in two where it turns",
                      label(body), arm.links()[static_cast<std::size_t>(one.link)].name));
    if (one.second >= 0 && one.margin < kUnsure)
      out.odd.push_back(fmt::format("{} might as well belong to {} as to {}", label(body),
                                    arm.links()[static_cast<std::size_t>(one.second)].name,
                                    arm.links()[static_cast<std::size_t>(one.link)].name));
  }
  for (std::size_t l = 0; l < has_body.size(); ++l)
    if (!has_body[l] && arm.links()[l].posture_index >= 0)
      out.odd.push_back(fmt::format("no body belongs to link {}", arm.links()[l].name));
}

}  // namespace

MeshInspection inspect_mesh(std::vector<Surface> surfaces, const MeshInspectionOptions& options) {
  for (Surface& surface : surfaces)
    for (Vector3& corner : surface.corners) corner *= options.scale;
  MeshInspection out{.asked = options};
  out.bodies = bodies_of(surfaces);
  if (!options.links.empty() && options.links.size() != out.bodies.list.size())
    throw InputError(fmt::format("there are {} links for {} bodies", options.links.size(),
                                 out.bodies.list.size()),
                     "give one for each, -1 for none");
  for (const MeshBody& body : out.bodies.list)
    out.inertials.push_back(
        is_solid(body) ? inertial_of(Shape(mesh_of(body.surface.corners, body.surface.faces)),
                                     options.density.value_or(1.0))
                       : Inertial{});
  for (const MeshBody& body : out.bodies.list) out.bulges.push_back(bulge_of_hull(body));
  const double like = options.arm == nullptr ? 0.0 : length_of(*options.arm);
  if (std::string doubt =
          unit_doubt((out.bodies.high - out.bodies.low).norm(), options.scale, like);
      !doubt.empty())
    out.wrong.push_back(std::move(doubt));
  look_at_bodies(out);
  if (options.arm == nullptr) return out;
  if (options.links.empty())
    propose(out, *options.arm);
  else
    out.links = options.links;
  out.axes = check_axes(out.bodies, out.links, *options.arm);
  // A joint that is described elsewhere leads the proposal astray: once more with what was found.
  if (options.links.empty() &&
      std::any_of(out.axes.begin(), out.axes.end(),
                  [](const AxisFit& fit) { return fit.doubt.has_value(); })) {
    propose(out, corrected(*options.arm, out.axes));
    out.axes = check_axes(out.bodies, out.links, *options.arm);
  }
  look_at_links(out);
  return out;
}

std::string MeshInspection::summary() const {
  const std::size_t count = bodies.list.size();
  if (!wrong.empty())
    return fmt::format("no: {}{}", wrong.front(),
                       wrong.size() > 1 ? fmt::format("; and {} more", wrong.size() - 1) : "");
  std::string out =
      count == 1 ? "yes: 1 body, closed" : fmt::format("yes: {} bodies, all closed", count);
  const auto checked = std::count_if(axes.begin(), axes.end(),
                                     [](const AxisFit& fit) { return fit.feature.has_value(); });
  if (checked > 0)
    out += fmt::format("; {} of {} axes are where the mesh has them", checked, axes.size());
  return out;
}

std::string MeshInspection::report() const {
  const Vector3 size = 1e3 * (bodies.high - bodies.low);
  std::string out = summary() + "\n" +
                    fmt::format(
                        "  {} by {} by {} mm in all, from [{:.4g}, {:.4g}, {:.4g}] mm, if its "
                        "unit is {}\n\n",
                        fmt::format("{:.4g}", size.x()), fmt::format("{:.4g}", size.y()),
                        fmt::format("{:.4g}", size.z()), 1e3 * bodies.low.x(), 1e3 * bodies.low.y(),
                        1e3 * bodies.low.z(), asked.unit);
  const bool named = std::any_of(bodies.list.begin(), bodies.list.end(),
                                 [](const MeshBody& body) { return !body.surface.name.empty(); });
  std::vector<std::string> headings{"body"};
  if (named) headings.push_back("<name");
  headings.insert(headings.end(), {"triangles", "size mm", "volume cm3"});
  if (asked.density) headings.push_back("mass kg");
  headings.insert(headings.end(), {"hull out by mm", "<skin", "inside of"});
  if (!links.empty()) headings.push_back("<link");
  Table table(headings);
  for (std::size_t i = 0; i < bodies.list.size(); ++i) {
    const MeshBody& body = bodies.list[i];
    const Vector3 s = 1e3 * body.size();
    std::vector<std::string> row{std::to_string(body.number)};
    if (named) row.push_back(body.surface.name);
    row.push_back(std::to_string(body.surface.faces.size()));
    row.push_back(fmt::format("{:.4g} x {:.4g} x {:.4g}", s.x(), s.y(), s.z()));
    row.push_back(body.volume > 0.0 ? fmt::format("{:.4g}", 1e6 * body.volume) : "-");
    if (asked.density)
      row.push_back(body.volume > 0.0 ? fmt::format("{:.4g}", inertials[i].mass) : "-");
    row.push_back(fmt::format("{:.1f}", 1e3 * bulges[i].most));
    row.push_back(skin_text(body));
    row.push_back(body.inside_of > 0 ? std::to_string(body.inside_of) : "");
    if (!links.empty()) {
      std::string link =
          links[i] < 0 ? "-" : asked.arm->links()[static_cast<std::size_t>(links[i])].name;
      if (!proposed.empty() && proposed[i].second >= 0 && proposed[i].margin < kUnsure)
        link += fmt::format(" (or {})",
                            asked.arm->links()[static_cast<std::size_t>(proposed[i].second)].name);
      row.push_back(link);
    }
    table.row(row);
  }
  out += table.text();
  if (!axes.empty()) {
    out += "\n";
    Table fits({"<joint", "<the bore or boss nearest to its axis", "off mm", "tilt deg",
                "<what that says"});
    for (const AxisFit& fit : axes)
      fits.row({fit.joint, fit.feature ? fit.feature->text() : "-",
                fit.feature ? fmt::format("{:.3f}", 1e3 * fit.off.norm()) : "-",
                fit.feature ? fmt::format("{:.3f}", fit.tilt / kTurn * 360.0) : "-",
                fit.doubt || !fit.feature ? text_of(fit) : "right"});
    out += fits.text();
  }
  const auto list = [&](const char* kind, const std::vector<std::string>& lines) {
    if (lines.empty()) return;
    out += "\n";
    for (const std::string& line : lines) out += fmt::format("  {}: {}\n", kind, line);
  };
  list("wrong", wrong);
  list("odd", odd);
  if (!links.empty()) out += "\n  for the arm's description, once looked at:\n" + proposal();
  return out;
}

std::string MeshInspection::proposal() const {
  if (links.empty()) return {};
  std::string out = fmt::format("    bodies:\n      file: {}\n      unit: {}\n      links:\n",
                                asked.file.empty() ? "FILE" : asked.file, asked.unit);
  for (std::size_t l = 0; l < asked.arm->links().size(); ++l) {
    std::vector<int> numbers;
    for (std::size_t i = 0; i < links.size(); ++i)
      if (links[i] == static_cast<int>(l) && bodies.list[i].inside_of == 0)
        numbers.push_back(bodies.list[i].number);
    if (!numbers.empty())
      out +=
          fmt::format("        {}: [{}]\n", asked.arm->links()[l].name, fmt::join(numbers, ", "));
  }
  std::vector<int> inner;
  for (const MeshBody& body : bodies.list)
    if (body.inside_of > 0) inner.push_back(body.number);
  if (!inner.empty())
    out += fmt::format("      # inside of others, and so left out: {}\n", fmt::join(inner, ", "));
  return out;
}

}  // namespace er
