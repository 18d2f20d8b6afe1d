#include "elbowroom/files/bodies_reading.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/bodies/bodies_on_links.hpp"
#include "elbowroom/files/find_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/model/find_named.hpp"

namespace er {
namespace {

constexpr int kLeftOut = -1;
constexpr int kNotNamed = -2;

// Each body named once, under its link or as left out.
class BodyList {
 public:
  explicit BodyList(const Bodies& bodies) : link_of_(bodies.list.size(), kNotNamed) {}

  void give(const Node& numbers, int link, const std::string& to) {
    for (const Node& one : as_list(numbers, "numbers of bodies")) {
      const int number = as_whole(one, "the number of a body");
      if (number < 1 || number > static_cast<int>(link_of_.size()))
        throw one.error(fmt::format("there is no body {}: they are numbered from 1 to {}", number,
                                    link_of_.size()),
                        "`elbowroom inspect FILE` lists the bodies of a mesh file");
      int& here = link_of_[static_cast<std::size_t>(number - 1)];
      if (here != kNotNamed)
        throw one.error(fmt::format("body {} is given twice, the second time to {}", number, to),
                        "keep one");
      here = link;
    }
  }

  // Those inside of others go where these go.
  std::vector<int> take(const Bodies& bodies, const Node& node) {
    std::vector<int> missing;
    for (const MeshBody& body : bodies.list) {
      int& here = link_of_[static_cast<std::size_t>(body.number - 1)];
      if (here == kNotNamed && body.inside_of > 0)
        here = link_of_[static_cast<std::size_t>(bodies.outermost(body).number - 1)];
      if (here == kNotNamed) missing.push_back(body.number);
    }
    if (!missing.empty())
      throw node.error(
          fmt::format("{} {} of this mesh given to no link",
                      missing.size() == 1 ? fmt::format("body {}", missing.front())
                                          : fmt::format("bodies {}", fmt::join(missing, ", ")),
                      missing.size() == 1 ? "is" : "are"),
          "name it under links:, or under leave_out: if it is not to count");
    return std::move(link_of_);
  }

 private:
  std::vector<int> link_of_;
};

std::vector<std::size_t> numbers_at(const std::vector<int>& link_of, int link) {
  std::vector<std::size_t> out;
  for (std::size_t i = 0; i < link_of.size(); ++i)
    if (link_of[i] == link) out.push_back(i + 1);
  return out;
}

int link_named(const Node::Entry& entry, const ArmDescription& arm) {
  try {
    return static_cast<int>(&find_named(arm.links, "link", entry.key) - arm.links.data());
  } catch (const InputError& error) {
    throw InputError(error.message(), error.advice(), entry.key_place);
  }
}

}  // namespace

void read_bodies(const Node& node, const Colour& colour, ArmDescription& arm,
                 std::vector<Note>& notes) {
  expect_keys(node, "bodies", {"file", "unit", "links", "leave_out", "shape", "density"});
  const Node& file = need(node, "bodies", "file");
  BodiesOnLinks options{.origin = {.file = as_text(file, "a mesh file"),
                                   .scale = Vector3::Constant(read_unit(node)),
                                   .bodies = {}},
                        .colour = colour};
  if (const Node* shape = node.find("shape")) {
    static const std::vector<std::string> kShapes{"hull", "mesh"};
    const std::string text = as_text(*shape, "the shape of bodies");
    if (std::find(kShapes.begin(), kShapes.end(), text) == kShapes.end())
      throw shape->placed(unknown_name("shape of bodies", text, kShapes));
    options.as_meshes = text == "mesh";
  }
  if (const Node* density = node.find("density")) {
    options.density = as_quantity(*density, dimension::density);
    if (!(*options.density > 0.0)) throw density->error("a density must be above zero");
  }
  const Node& links = need(node, "bodies", "links");
  if (links.kind != Node::Kind::map)
    throw links.error("expected links with the numbers of their bodies",
                      "write them like base: [1, 4]");
  const std::vector<Surface> surfaces = read_mesh_file(
      find_file(options.origin.file, file.place.file, file.place), options.origin.scale);
  try {
    const Bodies bodies = bodies_of(surfaces);
    BodyList list(bodies);
    for (const Node::Entry& entry : links.entries)
      list.give(entry.value, link_named(entry, arm), entry.key);
    const Node* left = node.find("leave_out");
    if (left != nullptr) list.give(*left, kLeftOut, "what is left out");
    const std::vector<int> link_of = list.take(bodies, node);
    add_bodies(arm, bodies, link_of, options);
    const std::string subject = fmt::format("{}, mesh '{}'", arm.name, options.origin.file);
    if (left != nullptr)
      notes.push_back(
          {left->place, subject,
           fmt::format("bodies are left out: {}", fmt::join(numbers_at(link_of, kLeftOut), ", ")),
           "nothing is checked against them"});
    for (const std::string& done : bodies.mended)
      notes.push_back(
          {file.place, subject, "it was mended: " + done, "look at it, or mend the file"});
  } catch (const InputError& error) {
    if (error.place().line > 0) throw;
    throw InputError(fmt::format("mesh '{}': {}", options.origin.file, error.message()),
                     error.advice(), file.place);
  }
}

}  // namespace er
