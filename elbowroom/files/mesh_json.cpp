#include "elbowroom/files/mesh_json.hpp"

#include <fmt/format.h>

#include <utility>
#include <vector>

#include "elbowroom/files/json.hpp"

namespace er {
namespace {

using Members = std::vector<std::pair<std::string, std::string>>;

std::string yes_or_no(bool value) { return value ? "true" : "false"; }
std::string vector_json(const Vector3& v) { return json_of(Posture(v)); }

std::string inertia_json(const Matrix3& inertia) {
  Members out;
  const char* names = "xyz";
  for (Eigen::Index i = 0; i < 3; ++i)
    for (Eigen::Index k = i; k < 3; ++k)
      out.emplace_back(std::string{names[i], names[k]}, json_of(inertia(i, k)));
  return json_object(out);
}

std::string body_json(const MeshInspection& inspection, std::size_t i) {
  const MeshBody& body = inspection.bodies.list[i];
  Members out{{"number", std::to_string(body.number)},
              {"file", std::to_string(body.file)},
              {"name", json_of(body.surface.name)},
              {"triangles", json_of(static_cast<double>(body.surface.faces.size()))},
              {"low", vector_json(body.box.low)},
              {"high", vector_json(body.box.high)},
              {"area", json_of(body.health.area)},
              {"closed", yes_or_no(body.health.is_closed())},
              {"open_edges", json_of(body.health.edges.open)},
              {"turned_edges", json_of(body.health.edges.turned)},
              {"hollows", json_of(body.hollows)},
              {"turned_over", yes_or_no(body.turned)},
              {"inside_of", json_of(body.inside_of)},
              {"hull_out", json_of(inspection.bulges[i].most)}};
  if (body.volume > 0.0) {
    out.emplace_back("volume", json_of(body.volume));
    out.emplace_back("hull_adds", json_of(inspection.bulges[i].volume));
    out.emplace_back("centre", vector_json(inspection.inertials[i].centre));
    if (inspection.asked.density) {
      out.emplace_back("mass", json_of(inspection.inertials[i].mass));
      out.emplace_back("inertia", inertia_json(inspection.inertials[i].inertia));
    }
  }
  if (!inspection.shaped.empty()) {
    const ShapedBody& one = inspection.shaped[i];
    out.emplace_back("shape", json_of(one.text()));
    out.emplace_back("shape_out", json_of(one.out));
    if (body.volume > 0.0) out.emplace_back("shape_adds", json_of(one.adds));
  }
  if (!inspection.proposed.empty()) {
    const BodyOnLink& one = inspection.proposed[i];
    const auto name = [&](int link) {
      return json_of(inspection.arm->links()[static_cast<std::size_t>(link)].name);
    };
    out.emplace_back("link", name(one.link));
    if (one.second >= 0) {
      out.emplace_back("second_link", name(one.second));
      out.emplace_back("margin", json_of(one.margin));
    }
  }
  return json_object(out);
}

std::string axis_json(const AxisFit& fit) {
  Members out{{"joint", json_of(fit.joint)}};
  if (fit.feature) {
    out.emplace_back("feature", json_object({{"body", json_of(fit.feature->body)},
                                             {"bore", yes_or_no(fit.feature->is_bore)},
                                             {"radius", json_of(fit.feature->radius)},
                                             {"length", json_of(fit.feature->length)},
                                             {"middle", vector_json(fit.feature->middle)},
                                             {"axis", vector_json(fit.feature->axis)},
                                             {"worst", json_of(fit.feature->worst)}}));
    out.emplace_back("off", vector_json(fit.off));
    out.emplace_back("tilt", json_of(fit.tilt));
  }
  if (fit.doubt)
    out.emplace_back("doubt", json_object({{"from", json_of(fit.doubt->from)},
                                           {"along", vector_json(fit.doubt->along)},
                                           {"described", json_of(fit.doubt->described)},
                                           {"measured", json_of(fit.doubt->measured)},
                                           {"opposite", yes_or_no(fit.doubt->opposite)}}));
  return json_object(out);
}

}  // namespace

std::string json_of(const MeshInspection& inspection) {
  std::vector<std::string> bodies;
  for (std::size_t i = 0; i < inspection.bodies.list.size(); ++i)
    bodies.push_back(body_json(inspection, i));
  std::vector<std::string> axes;
  for (const AxisFit& fit : inspection.axes) axes.push_back(axis_json(fit));
  Members out{{"files", json_of(inspection.asked.files)},
              {"bodies", fmt::format("[{}]", fmt::join(bodies, ","))},
              {"axes", fmt::format("[{}]", fmt::join(axes, ","))},
              {"wrong", json_of(inspection.wrong)},
              {"odd", json_of(inspection.odd)},
              {"proposal", json_of(inspection.proposal())}};
  if (!inspection.asked.unit.empty()) out.emplace_back("unit", json_of(inspection.asked.unit));
  if (const double off = inspection.bodies.off(); off > 0.0) out.emplace_back("off", json_of(off));
  if (inspection.placing)
    out.emplace_back("placing",
                     json_object({{"at", json_of(inspection.placing->at)},
                                  {"axes", std::to_string(inspection.placing->axes)},
                                  {"matched", std::to_string(inspection.placing->matched)},
                                  {"only", yes_or_no(inspection.placing->is_only)}}));
  if (const auto& posture = inspection.posture) {
    std::vector<std::string> postures;
    for (const Posture& one : posture->postures) postures.push_back(json_of(one));
    out.emplace_back("posture",
                     json_object({{"postures", fmt::format("[{}]", fmt::join(postures, ","))},
                                  {"axes", std::to_string(posture->axes)},
                                  {"matched", std::to_string(posture->matched)}}));
  }
  return json_object(out);
}

}  // namespace er
