#include "elbowroom/bodies/mesh_inspection.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <set>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/bodies/joint_placing.hpp"
#include "elbowroom/model/hull.hpp"

namespace er {
namespace {

constexpr double kUnsure = 5e-3;    // m; a proposal that is better by less is a guess
constexpr double kSameCost = 1e-6;  // m

// The length of the longest way from the mount to the frame of a link.
double length_of(const Arm& arm) {
  std::vector<double> lengths;
  for (const Link& link : arm.links()) {
    const double before =
        link.parent_index < 0 ? 0.0 : lengths[static_cast<std::size_t>(link.parent_index)];
    lengths.push_back(before + link.joint.origin.position.norm());
  }
  return *std::max_element(lengths.begin(), lengths.end());
}

// 1044 or 12.35: four digits, and never a power of ten.
std::string mm_text(double metres) {
  const double mm = 1e3 * metres;
  if (std::abs(mm) < 5e-4) return "0";
  return std::abs(mm) >= 1e3 ? fmt::format("{:.0f}", mm) : fmt::format("{:.4g}", mm);
}
std::string mm_text(const Vector3& metres, const char* between) {
  return fmt::format("{1}{0}{2}{0}{3}", between, mm_text(metres.x()), mm_text(metres.y()),
                     mm_text(metres.z()));
}

// "90 deg, 0 deg, -30 deg", about the fixed x, y, z in that order.
std::string rpy_text(const Matrix3& rotation) {
  const auto one = [](double angle) {
    const double degrees = to_deg(1.0) * angle;
    return fmt::format("{:.6g} deg", std::abs(degrees) < 1e-9 ? 0.0 : degrees);
  };
  const Vector3 rpy = rpy_of(rotation);
  return fmt::format("{}, {}, {}", one(rpy.x()), one(rpy.y()), one(rpy.z()));
}

const std::string& link_name(const MeshInspection& inspection, int link) {
  return inspection.arm->links()[static_cast<std::size_t>(link)].name;
}

bool is_guess(const BodyOnLink& one) { return one.second >= 0 && one.margin < kUnsure; }

std::string label(const MeshBody& body) {
  return body.surface.name.empty() ? fmt::format("body {}", body.number)
                                   : fmt::format("body {} ({})", body.number, body.surface.name);
}

std::string skin_text(const MeshBody& body) {
  const EdgeFaults& edges = body.health.edges;
  if (edges.open > 0) return fmt::format("OPEN, {} edges", edges.open);
  if (edges.turned > 0) return "FACES BOTH WAYS";
  if (!(body.volume > 0.0)) return "A SHEET";
  std::string out = "closed";
  if (body.hollows > 0)
    out += body.hollows == 1 ? ", a hollow" : fmt::format(", {} hollows", body.hollows);
  if (body.turned) out += ", turned over";
  return out;
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
    else if (!(body.volume > 0.0))
      out.wrong.push_back(fmt::format("{} is a sheet: it holds nothing", label(body)));
    if (body.health.slivers > 0)
      out.odd.push_back(
          fmt::format("{} has {} triangles of no area", label(body), body.health.slivers));
    if (body.turned)
      out.odd.push_back(fmt::format("{} faced inwards and was turned over", label(body)));
  }
  for (const std::string& done : out.bodies.mended) out.odd.push_back("mended: " + done);
}

void shape_bodies(MeshInspection& out, double within) {
  out.shaped.resize(out.bodies.list.size());
  on_all_cores(out.shaped.size(), {}, "", [&](std::size_t i) {
    try {
      out.shaped[i] =
          shapes_of(out.bodies.list[i], {.as = BodyShape::simplest, .within = within}, {});
    } catch (const InputError&) {
      // All in one plane; which is said of it anyway.
    }
  });
  for (std::size_t i = 0; i < out.shaped.size(); ++i)
    if (out.shaped[i].out > within)
      out.odd.push_back(fmt::format("{}: {} about it, and still up to {} mm beyond it",
                                    label(out.bodies.list[i]), out.shaped[i].text(),
                                    mm_text(out.shaped[i].out)));
}

std::vector<int> links_of(const std::vector<BodyOnLink>& proposed) {
  std::vector<int> out;
  for (const BodyOnLink& one : proposed) out.push_back(one.link);
  return out;
}

// Where the sure bodies of each of several files sit.
std::vector<std::set<int>> links_by_file(const MeshInspection& inspection) {
  std::vector<std::set<int>> out(inspection.asked.files.size());
  for (std::size_t i = 0; i < inspection.proposed.size(); ++i)
    if (!is_guess(inspection.proposed[i]))
      out[static_cast<std::size_t>(inspection.bodies.list[i].file)].insert(
          inspection.proposed[i].link);
  return out;
}

// Which link a body is on that might as well be on two, the rest of its file says, if there are
// several files.
void settle_guesses_by_file(MeshInspection& out) {
  if (out.asked.files.size() < 2) return;
  const std::vector<std::set<int>> sure = links_by_file(out);
  for (std::size_t i = 0; i < out.proposed.size(); ++i) {
    const std::set<int>& links = sure[static_cast<std::size_t>(out.bodies.list[i].file)];
    BodyOnLink& one = out.proposed[i];
    if (!is_guess(one) || links.size() != 1) continue;
    if (one.second == *links.begin()) std::swap(one.link, one.second);
    if (one.link == *links.begin()) one.second = -1;
  }
}

void hold_against(MeshInspection& out, const std::vector<RoundFeature>& features) {
  const Arm& arm = *out.arm;
  out.proposed = propose_links(out.bodies, arm);
  settle_guesses_by_file(out);
  out.axes = check_axes(features, links_of(out.proposed), arm);
  // A joint that is described elsewhere leads the proposal astray: once more with what was found.
  if (std::none_of(out.axes.begin(), out.axes.end(),
                   [](const AxisFit& fit) { return fit.doubt.has_value(); }))
    return;
  out.proposed = propose_links(out.bodies, corrected(arm, out.axes));
  settle_guesses_by_file(out);
  out.axes = check_axes(features, links_of(out.proposed), arm);
}

// One or two dimensions that are wrong explain more than a mesh that lies elsewhere,
bool may_lie_elsewhere(const std::vector<AxisFit>& axes) {
  const auto doubts = std::count_if(axes.begin(), axes.end(),
                                    [](const AxisFit& fit) { return fit.doubt || is_tilted(fit); });
  const auto unseen =
      std::count_if(axes.begin(), axes.end(), [](const AxisFit& fit) { return !fit.feature; });
  constexpr int kMostBelieved = 2;
  return doubts > kMostBelieved || 2 * unseen >= static_cast<std::ptrdiff_t>(axes.size());
}
// but a joint that is turned makes axes lean, or has none of them near anything round.
bool may_be_turned(const std::vector<AxisFit>& axes) {
  return may_lie_elsewhere(axes) || std::any_of(axes.begin(), axes.end(), [](const AxisFit& fit) {
           return !fit.feature || is_tilted(fit);
         });
}

std::string posture_text(const Posture& posture, const Arm& arm) {
  std::string out;
  for (int k = 0; k < arm.dof(); ++k)
    if (posture[k] != 0.0)
      out += fmt::format("{}{} at {}", out.empty() ? "" : ", ", arm.moving_joint(k).name,
                         text_angle(posture[k]));
  return out;
}

std::string placing_text(const MeshPlacing& placing) {
  return fmt::format("turned by rpy [{}], then moved by [{}] mm", rpy_text(placing.at.rotation),
                     mm_text(placing.at.position, ", "));
}

// Of postures that bores cannot tell apart, first the one whose links are where the bodies are.
void put_likeliest_first(MeshPosture& found, const Bodies& bodies, const Arm& arm) {
  if (found.postures.size() < 2) return;
  std::vector<Arm> standing;
  for (const Posture& posture : found.postures) standing.push_back(standing_at(arm, posture));
  const std::vector<double> costs = link_costs(bodies, standing);
  std::vector<std::pair<double, Posture>> by_cost;
  for (std::size_t i = 0; i < costs.size(); ++i) by_cost.emplace_back(costs[i], found.postures[i]);
  std::stable_sort(by_cost.begin(), by_cost.end(), [](const auto& a, const auto& b) {
    return std::llround(a.first / kSameCost) < std::llround(b.first / kSameCost);
  });
  for (std::size_t i = 0; i < by_cost.size(); ++i) found.postures[i] = by_cost[i].second;
}

void hold_against_arm(MeshInspection& out) {
  const std::vector<RoundFeature> features = round_features(out.bodies);
  out.arm = out.asked.arm->mounted_at({});
  hold_against(out, features);
  if (may_lie_elsewhere(out.axes)) out.placing = placing_on(features, *out.arm);
  if (may_be_turned(out.axes)) out.posture = posture_of(features, *out.arm);
  if (!out.placing && !out.posture) return;
  if (out.posture) put_likeliest_first(*out.posture, out.bodies, *out.arm);
  const std::string name = out.arm->name();
  const auto missed = [](const auto& found) { return found->axes - found->matched; };
  if (out.posture && (!out.placing || missed(out.posture) <= missed(out.placing))) {
    out.wrong.push_back(fmt::format(
        "the mesh does not show {} at zero: with {} it has bores or bosses on {} of {} axes{}{}",
        name, posture_text(out.posture->first(), *out.arm), out.posture->matched, out.posture->axes,
        out.posture->postures.size() > 1
            ? fmt::format(" (or with {})", posture_text(out.posture->postures[1], *out.arm))
            : "",
        out.placing && missed(out.posture) == missed(out.placing)
            ? fmt::format("; or at zero, all of it {}", placing_text(*out.placing))
            : ""));
    out.placing.reset();
    out.arm = standing_at(*out.arm, out.posture->first());
  } else {
    out.wrong.push_back(fmt::format(
        "the mesh is not in the base frame of {}: {}, it has bores or bosses on {} of {} axes{}",
        name, placing_text(*out.placing), out.placing->matched, out.placing->axes,
        out.placing->is_only ? "" : " (and turned otherwise, too)"));
    out.posture.reset();
    out.arm = out.arm->mounted_at(out.placing->at.inverse());
  }
  hold_against(out, features);
}

void look_at_axes(MeshInspection& out) {
  for (const AxisFit& fit : out.axes) {
    const std::string text = fmt::format("joint {}: {}", fit.joint, text_of(fit));
    if (!fit.feature)
      out.odd.push_back(text);
    else if (fit.doubt || is_tilted(fit))
      out.wrong.push_back(text);
  }
}

void look_at_links(MeshInspection& out) {
  const Arm& arm = *out.arm;
  std::vector<bool> has_body(arm.links().size(), false);
  for (const BodyOnLink& one : out.proposed) {
    has_body[static_cast<std::size_t>(one.link)] = true;
    const std::string body = label(out.bodies.numbered(one.body));
    if (one.spans)
      out.wrong.push_back(
          fmt::format("{} goes over from {} to the links next to it: cut it in two where it turns",
                      body, link_name(out, one.link)));
    if (is_guess(one))
      out.odd.push_back(fmt::format("{} might as well belong to {} as to {}", body,
                                    link_name(out, one.second), link_name(out, one.link)));
  }
  for (std::size_t l = 0; l < has_body.size(); ++l)
    if (!has_body[l] && arm.links()[l].posture_index >= 0)
      out.odd.push_back(fmt::format("no body belongs to link {}", arm.links()[l].name));
}

// Files that are meant to be links are given from the mount outward.
void look_at_order(MeshInspection& out) {
  if (out.asked.files.size() < 2) return;
  const std::vector<std::set<int>> sure = links_by_file(out);
  std::vector<int> first(sure.size(), static_cast<int>(out.arm->links().size()));
  for (std::size_t i = 0; i < out.proposed.size(); ++i) {
    const auto file = static_cast<std::size_t>(out.bodies.list[i].file);
    first[file] =
        std::min(first[file], sure[file].empty() ? out.proposed[i].link : *sure[file].begin());
  }
  std::vector<std::size_t> order(sure.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return first[a] < first[b]; });
  if (std::is_sorted(order.begin(), order.end())) return;
  std::string names;
  for (const std::size_t file : order) names += (names.empty() ? "" : ", ") + out.asked.files[file];
  out.odd.push_back("the files are not in the order of the arm's links, which is: " + names);
}

// Bodies that the arm has on another link already.
void look_at_given(MeshInspection& out) {
  struct Group {
    std::vector<int> bodies;
    bool all = true;  // sit on one other link
    int link = -1;
  };
  std::map<int, Group> groups;  // by the link they are on
  for (std::size_t i = 0; i < out.asked.given.size(); ++i) {
    const BodyOnLink& one = out.proposed[i];
    const int given = out.asked.given[i];
    if (given < 0 || is_guess(one)) continue;
    Group& group = groups[given];
    if (one.link == given) {
      group.all = false;
      continue;
    }
    group.all = group.all && (group.link < 0 || group.link == one.link);
    group.link = one.link;
    group.bodies.push_back(one.body);
  }
  for (const auto& [given, group] : groups) {
    if (group.bodies.empty()) continue;
    if (group.all)
      out.wrong.push_back(fmt::format("what is given to {} sits where {} is", link_name(out, given),
                                      link_name(out, group.link)));
    else
      for (const int body : group.bodies)
        out.odd.push_back(
            fmt::format("{} is given to {}, and sits where {} is", label(out.bodies.numbered(body)),
                        link_name(out, given),
                        link_name(out, out.proposed[static_cast<std::size_t>(body - 1)].link)));
  }
}

}  // namespace

std::vector<int> links_given(const Bodies& bodies, const std::vector<std::string>& files,
                             const Arm& arm) {
  std::vector<int> out(bodies.list.size(), -1);
  for (std::size_t l = 0; l < arm.links().size(); ++l)
    for (const Part& part : arm.links()[l].parts) {
      const FileOrigin* origin = origin_of(part.shape);
      if (origin == nullptr) continue;
      for (const MeshBody& body : bodies.list)
        if (files[static_cast<std::size_t>(body.file)] == origin->file &&
            std::find(origin->bodies.begin(), origin->bodies.end(), body.number_in_file) !=
                origin->bodies.end())
          out[static_cast<std::size_t>(body.number - 1)] = static_cast<int>(l);
    }
  return out;
}

MeshInspection inspect_mesh(Bodies bodies, const MeshInspectionOptions& options) {
  MeshInspection out{.asked = options, .bodies = std::move(bodies)};
  for (const MeshBody& body : out.bodies.list)
    out.inertials.push_back(body.volume > 0.0
                                ? inertial_within(body.surface.corners, body.surface.faces,
                                                  options.density.value_or(1.0))
                                : Inertial{});
  out.bulges.resize(out.bodies.list.size());
  on_all_cores(out.bulges.size(), {}, "",
               [&](std::size_t i) { out.bulges[i] = bulge_of_hull(out.bodies.list[i]); });
  if (options.within) shape_bodies(out, *options.within);
  const double size = (out.bodies.high - out.bodies.low).norm();
  const double like = options.arm ? length_of(*options.arm) : 0.0;
  if (std::string doubt = unit_doubt(size, options.scale, like); !doubt.empty())
    out.wrong.push_back(std::move(doubt));
  look_at_bodies(out);
  if (!options.arm) return out;
  hold_against_arm(out);
  look_at_axes(out);
  look_at_links(out);
  look_at_order(out);
  look_at_given(out);
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

namespace {

std::string body_table(const MeshInspection& inspection) {
  const std::vector<MeshBody>& list = inspection.bodies.list;
  const bool named = std::any_of(list.begin(), list.end(),
                                 [](const MeshBody& body) { return !body.surface.name.empty(); });
  std::vector<std::string> headings{"body"};
  if (named) headings.push_back("<name");
  headings.insert(headings.end(), {"triangles", "size mm", "volume cm3"});
  if (inspection.asked.density) headings.push_back("mass kg");
  const bool shaped = !inspection.shaped.empty();
  if (shaped)
    headings.insert(headings.end(), {"<simplest shape", "out mm"});
  else
    headings.push_back("hull out mm");
  headings.insert(headings.end(), {"adds", "<skin", "inside of"});
  if (!inspection.proposed.empty()) headings.push_back("<link");
  Table table(headings);
  for (std::size_t i = 0; i < list.size(); ++i) {
    const MeshBody& body = list[i];
    const bool solid = body.volume > 0.0;
    std::vector<std::string> row{std::to_string(body.number)};
    if (named) row.push_back(body.surface.name);
    row.push_back(std::to_string(body.surface.faces.size()));
    row.push_back(mm_text(body.size(), " x "));
    row.push_back(solid ? fmt::format("{:.4g}", 1e6 * body.volume) : "-");
    if (inspection.asked.density)
      row.push_back(solid ? fmt::format("{:.4g}", inspection.inertials[i].mass) : "-");
    if (shaped) row.push_back(inspection.shaped[i].text());
    const double out = shaped ? inspection.shaped[i].out : inspection.bulges[i].most;
    const double adds = shaped ? inspection.shaped[i].adds : inspection.bulges[i].volume;
    row.push_back(fmt::format("{:.1f}", 1e3 * out));
    row.push_back(solid ? fmt::format("{:.0f} %", 100.0 * adds / body.volume) : "-");
    row.push_back(skin_text(body));
    row.push_back(body.inside_of > 0 ? std::to_string(body.inside_of) : "");
    if (!inspection.proposed.empty()) {
      const BodyOnLink& one = inspection.proposed[i];
      row.push_back(link_name(inspection, one.link));
      if (is_guess(one)) row.back() += fmt::format(" (or {})", link_name(inspection, one.second));
    }
    table.row(row);
  }
  return table.text();
}

std::string axis_table(const std::vector<AxisFit>& axes) {
  Table table(
      {"<joint", "<the bore or boss nearest to its axis", "off mm", "tilt deg", "<what that says"});
  for (const AxisFit& fit : axes)
    table.row({fit.joint, fit.feature ? fit.feature->text() : "-",
               fit.feature ? fmt::format("{:.3f}", 1e3 * fit.off.norm()) : "-",
               fit.feature ? fmt::format("{:.3f}", fit.tilt / kTurn * 360.0) : "-", text_of(fit)});
  return table.text();
}

// One of several files, all of whose bodies are proposed for the same link.
bool is_whole_file_on(const MeshInspection& inspection, int file, int link) {
  if (inspection.asked.files.size() < 2) return false;
  for (std::size_t i = 0; i < inspection.proposed.size(); ++i)
    if (inspection.bodies.list[i].file == file && inspection.proposed[i].link != link) return false;
  return true;
}

std::string lines_text(const char* kind, const std::vector<std::string>& lines) {
  std::string out = lines.empty() ? "" : "\n";
  for (const std::string& line : lines) out += fmt::format("  {}: {}\n", kind, line);
  return out;
}

}  // namespace

std::string MeshInspection::report() const {
  std::string out = fmt::format(
      "{}\n  {} mm in all, from [{}] mm, {}\n", summary(),
      mm_text(bodies.high - bodies.low, " by "), mm_text(bodies.low, ", "),
      asked.unit.empty() ? "in the unit that it states" : "if its unit is " + asked.unit);
  if (bodies.off() > 0.0) out += fmt::format("  {}\n", exact_surfaces_text(bodies.off()));
  out += "\n";
  out += body_table(*this);
  if (!axes.empty()) out += "\n" + axis_table(axes);
  out += lines_text("wrong", wrong) + lines_text("odd", odd);
  if (!proposed.empty()) out += "\n  for the arm's description, once looked at:\n" + proposal();
  return out;
}

std::string MeshInspection::proposal() const {
  if (proposed.empty()) return {};
  const std::string names = fmt::format("\"{}\"", fmt::join(asked.files, "\", \""));
  std::string out = fmt::format("    bodies:\n      file: {}\n",
                                asked.files.size() > 1 ? "[" + names + "]" : names);
  if (!asked.unit.empty()) out += fmt::format("      unit: {}\n", asked.unit);
  if (placing) {
    const auto to_micrometre = [](double v) {
      return fmt::format("{:.7g} mm", std::round(1e6 * v) * 1e-3 + 0.0);  // and no -0
    };
    const Vector3& at = placing->at.position;
    out +=
        fmt::format("      at: {{position: [{}, {}, {}], rpy: [{}]}}\n", to_micrometre(at.x()),
                    to_micrometre(at.y()), to_micrometre(at.z()), rpy_text(placing->at.rotation));
  }
  if (posture) {
    std::vector<std::string> values;
    for (const double value : posture->first())
      values.push_back(fmt::format("{:.6g} deg", to_deg(1.0) * value));
    out += fmt::format("      posture: [{}]\n", fmt::join(values, ", "));
  }
  if (asked.within)
    out += fmt::format("      shape: simplest\n      within: {} mm\n", mm_text(*asked.within));
  out += "      links:\n";
  std::vector<int> inner;
  for (std::size_t l = 0; l < arm->links().size(); ++l) {
    std::vector<std::string> names_or_numbers;
    for (const BodyOnLink& one : proposed) {
      if (one.link != static_cast<int>(l)) continue;
      const MeshBody& body = bodies.numbered(one.body);
      if (is_whole_file_on(*this, body.file, one.link)) {
        if (body.number_in_file == 1)
          names_or_numbers.push_back("\"" + asked.files[static_cast<std::size_t>(body.file)] +
                                     "\"");
      } else if (body.inside_of > 0) {
        inner.push_back(one.body);
      } else {
        names_or_numbers.push_back(std::to_string(one.body));
      }
    }
    if (!names_or_numbers.empty())
      out += fmt::format("        {}: [{}]\n", arm->links()[l].name,
                         fmt::join(names_or_numbers, ", "));
  }
  if (!inner.empty())
    out +=
        fmt::format("      # inside of others, which they go with: {}\n", fmt::join(inner, ", "));
  return out;
}

}  // namespace er
