#include "elbowroom/model/cell.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/find_named.hpp"

namespace er {
namespace {

void claim(std::set<std::string>& taken, const std::string& name, const std::string& subject) {
  if (name.empty()) throw InputError::about(subject, "a name is missing");
  if (!taken.insert(name).second)
    throw InputError::about(subject, fmt::format("the name '{}' is used twice", name),
                            "arms, fixtures, pieces, zones and frames each need their own name");
}

void check_bodies(const std::vector<Body>& bodies, const char* key, bool may_move,
                  std::set<std::string>& taken) {
  for (std::size_t i = 0; i < bodies.size(); ++i) {
    const std::string subject = fmt::format("{}[{}]", key, i);
    claim(taken, bodies[i].name, subject + ".name");
    for (std::size_t p = 0; p < bodies[i].parts.size(); ++p)
      check_shape(bodies[i].parts[p].shape, fmt::format("{}.parts[{}]", subject, p), may_move);
  }
}

void check_zones(const std::vector<Zone>& zones, std::set<std::string>& taken) {
  for (std::size_t i = 0; i < zones.size(); ++i) {
    const std::string subject = fmt::format("zones[{}]", i);
    claim(taken, zones[i].name, subject + ".name");
    if (zones[i].parts.empty())
      throw InputError::about(subject, fmt::format("zone '{}' has no volume", zones[i].name),
                              "give it parts:");
    for (std::size_t p = 0; p < zones[i].parts.size(); ++p) {
      check_shape(zones[i].parts[p].shape, fmt::format("{}.parts[{}]", subject, p));
      if (!zones[i].parts[p].collides)
        throw InputError::about(fmt::format("{}.parts[{}]", subject, p),
                                "a part of a zone always counts", "leave out for: looks");
    }
    if (!(zones[i].speed > 0.0))
      throw InputError::about(
          subject + ".speed",
          fmt::format("the speed cap of zone '{}' must be above zero", zones[i].name),
          "leave it out to keep the arm out of the zone altogether");
    if (!(zones[i].distance >= 0.0) || !std::isfinite(zones[i].distance))
      throw InputError::about(subject + ".distance", "a distance must be zero or more");
  }
}

std::vector<std::string> names_that_can_touch(const CellDescription& cell) {
  std::vector<std::string> names;
  for (const Arm& arm : cell.arms)
    for (int k = 0; k < static_cast<int>(arm.links().size()); ++k)
      names.push_back(link_name(arm, k));
  for (const Body& body : cell.fixtures) names.push_back(body.name);
  for (const Body& body : cell.pieces) names.push_back(body.name);
  for (const Zone& zone : cell.zones) names.push_back(zone.name);
  return names;
}

}  // namespace

Cell Cell::build(CellDescription description) {
  std::set<std::string> taken{"world"};
  for (std::size_t i = 0; i < description.arms.size(); ++i)
    claim(taken, description.arms[i].name(), fmt::format("arms[{}].name", i));
  check_bodies(description.fixtures, "fixtures", false, taken);
  check_bodies(description.pieces, "pieces", true, taken);
  check_zones(description.zones, taken);
  for (std::size_t i = 0; i < description.frames.size(); ++i)
    claim(taken, description.frames[i].name, fmt::format("frames[{}].name", i));
  const auto known = names_that_can_touch(description);
  for (std::size_t i = 0; i < description.contacts.size(); ++i) {
    const auto& [first, second] = description.contacts[i];
    int side = 0;
    for (const std::string& name : {first, second}) {
      if (std::find(known.begin(), known.end(), name) == known.end()) {
        const InputError error = unknown_name("link, fixture or piece", name, known);
        throw InputError::about(fmt::format("contacts[{}][{}]", i, side), error.message(),
                                error.advice());
      }
      ++side;
    }
  }
  return Cell(std::make_shared<const CellDescription>(std::move(description)));
}

const Arm& Cell::arm(std::string_view name) const {
  if (name.empty() && data_->arms.size() == 1) return data_->arms.front();
  std::vector<std::string> known;
  for (const Arm& arm : data_->arms) {
    if (arm.name() == name) return arm;
    known.push_back(arm.name());
  }
  if (name.empty() && !known.empty())
    throw InputError(fmt::format("the cell has {} arms, so the arm must be named", known.size()),
                     fmt::format("known: {}", fmt::join(known, ", ")));
  throw unknown_name("arm", name, known);
}

const Posture& Cell::stance(std::string_view name) const {
  const auto dot = name.find('.');
  if (dot == std::string_view::npos) return arm({}).stance(name);
  return arm(name.substr(0, dot)).stance(name.substr(dot + 1));
}

Pose Cell::frame(std::string_view name) const {
  if (name.empty() || name == "world") return {};
  return find_named(data_->frames, "frame", name).at;
}

bool Cell::contact_is_meant(std::string_view first, std::string_view second) const {
  return std::any_of(data_->contacts.begin(), data_->contacts.end(), [&](const MeantContact& c) {
    return (c.first == first && c.second == second) || (c.first == second && c.second == first);
  });
}

Cell Cell::with_body_at(std::string_view name, const Pose& at) const {
  CellDescription changed = *data_;
  std::vector<std::string> known;
  for (std::vector<Body>* bodies : {&changed.fixtures, &changed.pieces}) {
    for (Body& body : *bodies) {
      known.push_back(body.name);
      if (body.name != name) continue;
      body.at = at;
      return Cell(std::make_shared<const CellDescription>(std::move(changed)));
    }
  }
  throw unknown_name("fixture or piece", name, known);
}

Cell Cell::with_contacts(const std::vector<MeantContact>& contacts) const {
  CellDescription changed = *data_;
  changed.contacts.insert(changed.contacts.end(), contacts.begin(), contacts.end());
  return build(std::move(changed));
}

Cell Cell::with_known_contacts(const std::vector<MeantContact>& contacts) const {
  const std::vector<std::string> known = names_that_can_touch(*data_);
  const auto is_known = [&](const std::string& name) {
    return std::find(known.begin(), known.end(), name) != known.end();
  };
  std::vector<MeantContact> kept = contacts;
  std::erase_if(
      kept, [&](const MeantContact& one) { return !is_known(one.first) || !is_known(one.second); });
  return with_contacts(kept);
}

Cell Cell::without_arm(std::string_view arm) const {
  const std::string name = this->arm(arm).name();
  CellDescription changed = *data_;
  std::erase_if(changed.arms, [&](const Arm& one) { return one.name() == name; });
  changed.contacts.clear();
  return build(std::move(changed)).with_known_contacts(contacts());
}

Cell Cell::with_arm(const Arm& arm) const {
  CellDescription changed = *data_;
  changed.arms[static_cast<std::size_t>(&this->arm(arm.name()) - data_->arms.data())] = arm;
  return Cell(std::make_shared<const CellDescription>(std::move(changed)));
}

namespace {

// Contacts name a piece by its own name and a held one as a link: all that meant the one mean the
// other from now on.
void rename_in_contacts(std::vector<MeantContact>& contacts, const std::string& from,
                        const std::string& to) {
  for (MeantContact& contact : contacts)
    for (std::string* side : {&contact.first, &contact.second})
      if (*side == from) *side = to;
}

}  // namespace

Cell Cell::with_held(std::string_view piece_name, std::string_view arm_name, std::string_view tool,
                     const Pose& tip_in_piece) const {
  const Arm& holder = arm(arm_name);
  const Body piece = find_named(data_->pieces, "piece", piece_name);
  const Tool& by = holder.tool(tool);
  ArmDescription taken = holder.description();
  Link link{.name = piece.name};
  link.parent = by.link;
  link.joint.origin = by.tip * tip_in_piece.inverse();
  link.parts = piece.parts;
  if (piece.mass > 0.0) link.inertial = inertial_of(piece.parts, piece.mass);
  link.place = piece.place;
  link.held = true;
  taken.links.push_back(std::move(link));
  CellDescription changed = *data_;
  changed.arms[static_cast<std::size_t>(&holder - data_->arms.data())] = Arm::build(taken);
  std::erase_if(changed.pieces, [&](const Body& b) { return b.name == piece.name; });
  changed.held.push_back({piece, holder.name()});
  rename_in_contacts(changed.contacts, piece.name, holder.name() + "." + piece.name);
  return build(std::move(changed));
}

Cell Cell::with_held(std::string_view piece_name, std::string_view arm_name, std::string_view tool,
                     std::string_view grasp) const {
  const Body& piece = find_named(data_->pieces, "piece", piece_name);
  if (grasp.empty() && !piece.grasps.empty()) grasp = piece.grasps.front().name;
  return with_held(piece_name, arm_name, tool,
                   find_named(piece.grasps, "grasp", grasp, "piece", piece_name).tip);
}

Cell Cell::with_released(std::string_view piece_name, const Pose& at) const {
  std::vector<Body> held;
  for (const HeldPiece& one : data_->held) held.push_back(one.piece);
  Body piece = find_named(held, "held piece", piece_name);
  piece.at = at;
  CellDescription changed = *data_;
  const auto entry =
      std::find_if(changed.held.begin(), changed.held.end(),
                   [&](const HeldPiece& one) { return one.piece.name == piece_name; });
  Arm& holder = changed.arms[static_cast<std::size_t>(&arm(entry->arm) - data_->arms.data())];
  changed.held.erase(entry);
  ArmDescription left = holder.description();
  std::erase_if(left.links, [&](const Link& link) { return link.held && link.name == piece.name; });
  rename_in_contacts(changed.contacts, holder.name() + "." + piece.name, piece.name);
  holder = Arm::build(left);
  changed.pieces.push_back(std::move(piece));
  return build(std::move(changed));
}

std::string link_name(const Arm& arm, int link) {
  const Link& one = arm.links()[static_cast<std::size_t>(link)];
  return one.arm > 0 ? one.name : arm.name() + "." + one.name;
}

}  // namespace er
