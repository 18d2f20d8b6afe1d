#include "elbowroom/files/cell_file.hpp"

#include <fmt/format.h>

#include "elbowroom/files/arm_reading.hpp"
#include "elbowroom/files/expansion.hpp"
#include "elbowroom/files/part_reading.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/files/robot_xml.hpp"
#include "elbowroom/files/target_reading.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

std::vector<Grasp> read_grasps(const Node& node) {
  std::vector<Grasp> grasps;
  for (const Node& item : as_list(node, "grasps")) {
    expect_keys(item, "a grasp", {"name", "tip", "turn"});
    Grasp grasp{as_text(need(item, "a grasp", "name"), "a name"),
                read_pose(need(item, "a grasp", "tip"))};
    if (const Node* turn = item.find("turn")) grasp.turn = read_band(*turn, dimension::angle);
    grasps.push_back(std::move(grasp));
  }
  return grasps;
}

std::vector<Body> read_bodies(const Node& node, bool loose, std::vector<Note>& notes) {
  const std::string what = loose ? "a piece" : "a fixture";
  std::vector<Body> bodies;
  for (const Node& item : as_list(node, loose ? "pieces" : "fixtures")) {
    std::vector<std::string> keys{"name", "at", "colour", "mass", "parts"};
    keys.emplace_back(loose ? "grasps" : "robot_xml");
    expect_keys(item, what, keys);
    Body body;
    body.name = as_text(need(item, what, "name"), "a name");
    body.place = item.place;
    if (const Node* at = item.find("at")) body.at = read_pose(*at);
    if (const Node* mass = item.find("mass")) {
      body.mass = as_quantity(*mass, dimension::mass);
      if (!(body.mass > 0.0)) throw mass->error("a mass must be above zero");
    }
    Colour colour;
    if (const Node* own = item.find("colour")) colour = read_colour(*own);
    if (const Node* frozen = item.find("robot_xml")) {
      if (const Node* parts = item.find("parts"))
        throw parts->error("a fixture has parts or a robot XML file, not both", "keep one");
      body.parts = read_frozen_robot_xml(*frozen, notes);
    } else {
      body.parts = read_parts(need(item, what, "parts"), colour);
    }
    if (const Node* grasps = item.find("grasps")) body.grasps = read_grasps(*grasps);
    bodies.push_back(std::move(body));
  }
  return bodies;
}

std::vector<Zone> read_zones(const Node& node) {
  std::vector<Zone> zones;
  for (const Node& item : as_list(node, "zones")) {
    expect_keys(item, "a zone", {"name", "at", "parts", "distance", "speed", "colour"});
    Zone zone;
    zone.name = as_text(need(item, "a zone", "name"), "a name");
    zone.place = item.place;
    if (const Node* at = item.find("at")) zone.at = read_pose(*at);
    if (const Node* distance = item.find("distance"))
      zone.distance = as_quantity(*distance, dimension::length);
    if (const Node* speed = item.find("speed"))
      zone.speed = as_quantity(*speed, per(dimension::length, 1));
    Colour colour = zone.caps_speed() ? Colour{0.85, 0.72, 0.10} : Colour{0.9, 0.5, 0.2};
    if (const Node* own = item.find("colour")) colour = read_colour(*own);
    zone.parts = read_parts(need(item, "a zone", "parts"), colour);
    zones.push_back(std::move(zone));
  }
  return zones;
}

std::vector<MeantContact> read_contacts(const Node& node) {
  std::vector<MeantContact> contacts;
  for (const Node& item : as_list(node, "pairs of names")) {
    const auto& pair = as_list(item, "two names that may touch");
    if (pair.size() != 2)
      throw item.error(fmt::format("a contact is two names, found {}", pair.size()),
                       "write it like [teasel.base, pedestal]");
    contacts.push_back({as_text(pair[0], "a name"), as_text(pair[1], "a name")});
  }
  return contacts;
}

// Of meshes that have triangles without three corners.
void note_dropped(const std::vector<Part>& parts, const std::string& owner, const Place& place,
                  std::vector<Note>& notes) {
  for (const Part& part : parts)
    if (const auto* mesh = std::get_if<Mesh>(&part.shape);
        mesh != nullptr && mesh->data->dropped > 0)
      notes.push_back({place, fmt::format("{}, mesh '{}'", owner, mesh->data->origin.file),
                       fmt::format("{} of its triangles {} less than three different corners and "
                                   "{} left out",
                                   mesh->data->dropped, mesh->data->dropped == 1 ? "has" : "have",
                                   mesh->data->dropped == 1 ? "is" : "are"),
                       "nothing is lost by that"});
}

void note_dropped(CellDescription& cell) {
  for (const Arm& arm : cell.arms)
    for (const Link& link : arm.links())
      note_dropped(link.parts, arm.name() + "." + link.name, link.place, cell.notes);
  for (const auto* bodies : {&cell.fixtures, &cell.pieces})
    for (const Body& body : *bodies) note_dropped(body.parts, body.name, body.place, cell.notes);
  for (const Zone& zone : cell.zones) note_dropped(zone.parts, zone.name, zone.place, cell.notes);
}

Cell read_cell(const Node& root) {
  expect_kind(root, "cell");
  expect_keys(root, "a cell",
              root_keys({"name", "arms", "fixtures", "pieces", "zones", "frames", "contacts"}));
  CellDescription cell;
  if (const Node* name = root.find("name")) cell.name = as_text(*name, "a name");
  if (const Node* arms = root.find("arms"))
    for (const Node& item : as_list(*arms, "arms")) cell.arms.push_back(read_arm(item, cell.notes));
  if (const Node* fixtures = root.find("fixtures"))
    cell.fixtures = read_bodies(*fixtures, false, cell.notes);
  if (const Node* pieces = root.find("pieces"))
    cell.pieces = read_bodies(*pieces, true, cell.notes);
  if (const Node* zones = root.find("zones")) cell.zones = read_zones(*zones);
  if (const Node* frames = root.find("frames")) {
    for (const Node& item : as_list(*frames, "frames")) {
      expect_keys(item, "a frame", {"name", "at"});
      cell.frames.push_back({as_text(need(item, "a frame", "name"), "a name"),
                             read_pose(need(item, "a frame", "at"))});
    }
  }
  if (const Node* contacts = root.find("contacts")) cell.contacts = read_contacts(*contacts);
  note_dropped(cell);
  for (const Unused& one : unused_definitions(root))
    cell.notes.push_back({one.place, one.what, "nothing uses it",
                          "take it out, or use it where its figure is written out"});
  return with_places(root, [&] { return Cell::build(cell); });
}

}  // namespace

Cell load_cell(const std::filesystem::path& path) { return read_cell(read_expanded(path)); }

Cell parse_cell(const std::string& text, const std::string& file) {
  Node root = parse_document(text, file);
  expand(root, file);
  return read_cell(root);
}

}  // namespace er
