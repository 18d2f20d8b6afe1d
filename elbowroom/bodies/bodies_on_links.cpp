#include "elbowroom/bodies/bodies_on_links.hpp"

#include <fmt/format.h>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

const BodyUse& use_of(const std::vector<BodyUse>& uses, const MeshBody& body) {
  return uses[static_cast<std::size_t>(body.number - 1)];
}

// Nothing can meet what is inside of a body that is a part of the same link.
bool is_hidden(const MeshBody& body, const Bodies& bodies, const std::vector<BodyUse>& uses) {
  if (body.inside_of == 0) return false;
  const BodyUse& outer = use_of(uses, bodies.outermost(body));
  return outer.link == use_of(uses, body).link && !outer.looks_only;
}

Inertial weight_of(const MeshBody& body, double density) {
  if (!(body.volume > 0.0))
    throw InputError(
        fmt::format("it has no volume, and so no mass: it is {}",
                    body.health.is_closed() ? "a sheet" : body.health.text(body.surface)),
        "mend the mesh, leave out density:, or leave out this body");
  return inertial_within(body.surface.corners, body.surface.faces, density);
}

// The parts of one body, in the frame of its link.
ShapedBody shaped(const MeshBody& body, const BodyUse& use, const BodiesOnLinks& options,
                  const Pose& in_link) {
  ShapeChoice choice = use.shape;
  if (use.looks_only) {  // whatever it looks like
    choice.as = body.volume > 0.0 ? BodyShape::mesh : BodyShape::hull;
    choice.detail = choice.looks_detail;
    choice.looks_as_mesh = false;
  }
  ShapedBody out = shapes_of(body, choice, options.origins[static_cast<std::size_t>(body.file)]);
  for (Part& part : out.parts) {
    part.at = in_link * part.at;
    part.colour = use.colour ? *use.colour : body.surface.colour.value_or(options.colour);
    if (use.looks_only) part.collides = false;
  }
  return out;
}

// What one body is made into, or why it cannot be.
struct Made {
  ShapedBody shapes = {};  // empty where nothing can meet it
  Inertial weight = {};    // in the frame of its link
  std::optional<InputError> fault = {};
};

// Each for itself, as that is nearly all of the work.
std::vector<Made> make_all(const Bodies& bodies, const std::vector<BodyUse>& uses,
                           const BodiesOnLinks& options, const std::vector<Pose>& at) {
  std::vector<Made> out(bodies.list.size());
  on_all_cores(out.size(), {}, "", [&](std::size_t i) {
    const MeshBody& body = bodies.list[i];
    if (uses[i].link < 0) return;
    const Pose in_link = at[static_cast<std::size_t>(uses[i].link)].inverse() * options.at;
    try {
      if (!is_hidden(body, bodies, uses)) out[i].shapes = shaped(body, uses[i], options, in_link);
      if (options.density) out[i].weight = moved(weight_of(body, *options.density), in_link);
    } catch (const InputError& error) {
      out[i].fault = error;
    }
  });
  return out;
}

}  // namespace

Arm bare_arm(const ArmDescription& description, const Pose& mount) {
  ArmDescription bare = description;
  bare.mount = mount;
  bare.stances.clear();
  bare.tools.clear();
  return Arm::build(std::move(bare));
}

std::vector<BodyAdded> add_bodies(ArmDescription& arm, const Bodies& bodies,
                                  const std::vector<BodyUse>& uses, const BodiesOnLinks& options) {
  const Arm bare = bare_arm(arm, {});
  const Posture shown =
      options.posture.size() > 0 ? options.posture : Posture(Posture::Zero(bare.dof()));
  const std::vector<Pose> at = link_poses(bare, shown);
  std::vector<BodyAdded> out(bodies.list.size());
  std::vector<Inertial> weights(arm.links.size());
  std::vector<bool> had_none;
  for (const Link& link : arm.links) had_none.push_back(link.parts.empty());
  const std::vector<Made> made = make_all(bodies, uses, options, at);
  const auto for_each_used = [&](auto&& visit) {
    for (std::size_t i = 0; i < bodies.list.size(); ++i) {
      const BodyUse& use = uses[i];
      if (use.link < 0) continue;
      const auto l = static_cast<std::size_t>(use.link);
      visit(i, arm.links[l], l);
    }
  };
  for_each_used([&](std::size_t i, Link& link, std::size_t l) {
    const Made& one = made[i];
    if (one.fault)
      throw InputError(fmt::format("body {}: {}", bodies.list[i].number, one.fault->message()),
                       one.fault->advice());
    out[i].shape = one.shapes.text();
    out[i].out = one.shapes.out;
    link.parts.insert(link.parts.end(), one.shapes.parts.begin(), one.shapes.parts.end());
    if (options.density) weights[l] = joined(weights[l], one.weight);
  });
  for_each_used([&](std::size_t i, const Link& link, std::size_t l) {
    if (!uses[i].looks_only) return;
    std::vector<Part> parts = link.parts;
    for (Part& part : parts) part.at = options.at.inverse() * at[l] * part.at;
    out[i].beyond = reach_beyond(bodies.list[i], parts);
  });
  for (std::size_t l = 0; l < weights.size(); ++l) {
    Link& link = arm.links[l];
    if (weights[l].mass > 0.0 && link.inertial.mass == 0.0) link.inertial = weights[l];
    // A mass that was stated had no shape to be spread over yet.
    if (had_none[l] && link.inertial.mass > 0.0 && link.inertial.inertia.isZero(0.0))
      link.inertial = inertial_of(link.parts, link.inertial.mass);
  }
  return out;
}

}  // namespace er
