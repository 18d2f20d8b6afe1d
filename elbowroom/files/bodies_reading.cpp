#include "elbowroom/files/bodies_reading.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>
#include <optional>
#include <set>
#include <type_traits>

#include "elbowroom/base/units.hpp"
#include "elbowroom/bodies/axis_check.hpp"
#include "elbowroom/bodies/bodies_on_links.hpp"
#include "elbowroom/bodies/joint_placing.hpp"
#include "elbowroom/bodies/mesh_posture.hpp"
#include "elbowroom/files/find_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/find_named.hpp"

namespace er {
namespace {

constexpr int kLeftOut = -1;
constexpr int kNotNamed = -2;
const char* const kZero = "a zero from a face";

// All bodies wholly in a box, {low: [..], high: [..]}, in the frame of the file.
std::vector<int> read_boxed(const Node& node, const Bodies& bodies) {
  expect_keys(node, "a box of bodies", {"low", "high"});
  const auto corner = [&](const char* key) {
    return as_vector(need(node, "a box of bodies", key), dimension::length, "a corner of a box");
  };
  const AlignedBox box{corner("low"), corner("high")};
  if (!(box.low.array() < box.high.array()).all())
    throw node.error("this box is turned inside out", "each number of low: is below that of high:");
  std::vector<int> out;
  for (const MeshBody& body : bodies.list)
    if (box.holds(body.box.low) && box.holds(body.box.high)) out.push_back(body.number);
  if (out.empty())
    throw node.error("no body lies wholly in this box",
                     "`elbowroom inspect FILE` lists the bodies; boxes are in the frame of the "
                     "file, with its unit applied");
  return out;
}

int read_number(const Node& node, const Bodies& bodies) {
  const int number = as_whole(node, "the number of a body");
  const int count = static_cast<int>(bodies.list.size());
  if (number < 1 || number > count)
    throw node.error(
        fmt::format("there is no body {}: they are numbered from 1 to {}", number, count),
        "`elbowroom inspect FILE` lists the bodies of a mesh file");
  return number;
}

bool is_box(const Node& node) { return node.kind == Node::Kind::map; }

// Bodies by their number, or all of a file by its name where there are several.
std::vector<int> read_numbered(const Node& node, const Bodies& bodies,
                               const std::vector<FileOrigin>& files) {
  for (std::size_t f = 0; f < files.size() && files.size() > 1; ++f) {
    if (node.kind != Node::Kind::scalar || node.text != files[f].file) continue;
    std::vector<int> out;
    for (const MeshBody& body : bodies.list)
      if (body.file == static_cast<int>(f)) out.push_back(body.number);
    return out;
  }
  const bool is_word = node.kind == Node::Kind::scalar && !node.text.empty() &&
                       std::isdigit(static_cast<unsigned char>(node.text[0])) == 0;
  if (files.size() > 1 && is_word) {
    std::vector<std::string> names;
    for (const FileOrigin& file : files) names.push_back(file.file);
    throw node.placed(unknown_name("mesh file", node.text, names));
  }
  return {read_number(node, bodies)};
}

// Which link each body belongs to, or that it is left out.
class BodyList {
 public:
  BodyList(const Bodies& bodies, const std::vector<FileOrigin>& files)
      : bodies_(bodies), files_(files), link_of_(bodies.list.size(), kNotNamed) {}

  void give_numbered(const Node& list, int link, const std::string& to) {
    for (const Node& one : as_list(list, "numbers of bodies")) {
      if (is_box(one)) continue;
      for (const int number : read_numbered(one, bodies_, files_)) {
        int& here = link_of(number);
        if (here != kNotNamed)
          throw one.error(fmt::format("body {} is given twice, the second time to {}", number, to),
                          "keep one");
        here = link;
      }
    }
  }
  // Those that are smaller and were not named.
  std::vector<int> drop_below(double size) {
    std::vector<int> out;
    for (const MeshBody& body : bodies_.list)
      if (link_of(body.number) == kNotNamed && body.size().maxCoeff() < size) {
        link_of(body.number) = kLeftOut;
        out.push_back(body.number);
      }
    return out;
  }
  // All in a box that were neither named nor dropped.
  void give_boxed(const Node& list, int link, const std::string& to) {
    for (const Node& one : list.items) {
      if (!is_box(one)) continue;
      for (const int number : read_boxed(one, bodies_)) {
        if (boxed_.count(number) > 0)
          throw one.error(
              fmt::format("body {} lies in two boxes, the second one of {}", number, to),
              "name it by its number, or make a box smaller");
        if (link_of(number) != kNotNamed) continue;
        boxed_.insert(number);
        link_of(number) = link;
      }
    }
  }

  // Those inside of others go where these go.
  std::vector<int> take(const Node& node) {
    std::vector<int> missing;
    for (const MeshBody& body : bodies_.list) {
      int& here = link_of(body.number);
      if (here == kNotNamed && body.inside_of > 0) here = link_of(bodies_.outermost(body).number);
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
  int& link_of(int number) { return link_of_[static_cast<std::size_t>(number - 1)]; }

  const Bodies& bodies_;
  const std::vector<FileOrigin>& files_;
  std::vector<int> link_of_;
  std::set<int> boxed_;
};

int link_named(const Node::Entry& entry, const ArmDescription& arm) {
  try {
    return static_cast<int>(&find_named(arm.links, "link", entry.key) - arm.links.data());
  } catch (const InputError& error) {
    throw InputError(error.message(), error.advice(), entry.key_place);
  }
}

template <class Value>
Value one_of(const Node& node, const char* what, const std::vector<std::string>& names,
             const std::vector<Value>& values) {
  const std::string text = as_text(node, what);
  const auto found = std::find(names.begin(), names.end(), text);
  if (found == names.end()) throw node.placed(unknown_name(what, text, names));
  return values[static_cast<std::size_t>(found - names.begin())];
}

void read_length_above_zero(const Node& node, const char* key, double& out) {
  const Node* length = node.find(key);
  if (length == nullptr) return;
  out = as_quantity(*length, dimension::length);
  if (!(out > 0.0)) throw length->error(fmt::format("{}: must be above zero", key));
}

// What `node` says of shapes, else what is so for all.
ShapeChoice read_choice(const Node& node, ShapeChoice choice) {
  if (const Node* shape = node.find("shape"))
    choice.as = one_of<BodyShape>(
        *shape, "shape of bodies", {"hull", "mesh", "hulls", "simplest"},
        {BodyShape::hull, BodyShape::mesh, BodyShape::hulls, BodyShape::simplest});
  if (const Node* looks = node.find("looks"))
    choice.looks_as_mesh =
        one_of<bool>(*looks, "looks of bodies", {"shape", "mesh"}, {false, true});
  read_length_above_zero(node, "within", choice.within);
  read_length_above_zero(node, "detail", choice.detail);
  read_length_above_zero(node, "looks_detail", choice.looks_detail);
  const bool follows = choice.as == BodyShape::hulls || choice.as == BodyShape::simplest;
  if (const Node* within = node.find("within"); within != nullptr && !follows)
    throw within->error("within: is how far shapes may stand out that are chosen here",
                        "say shape: hulls or shape: simplest; for fewer triangles of a hull or "
                        "mesh, say detail:");
  if (const Node* detail = node.find("detail"); detail != nullptr && choice.as == BodyShape::hulls)
    throw detail->error("hulls that follow a body are of no detail", "say within:");
  if (const Node* looks = node.find("looks_detail"); looks != nullptr && !choice.looks_as_mesh)
    throw looks->error("looks_detail: is of the mesh that pictures show", "say looks: mesh, too");
  return choice;
}

// One arm's bodies, read key by key.
class BodiesReader {
 public:
  BodiesReader(const Node& node, const Colour& colour, ArmDescription& arm,
               std::vector<Note>& notes)
      : node_(node), arm_(arm), notes_(notes) {
    expect_keys(node, "bodies",
                {"file", "unit", "at", "posture", "zeros", "axes", "links", "leave_out",
                 "drop_below", "looks_only", "shape", "within", "detail", "looks", "looks_detail",
                 "shapes", "colours", "density"});
    file_ = &need(node, "bodies", "file");
    read_files(read_unit(node));
    options_.colour = colour;
    if (const Node* at = node.find("at")) options_.at = read_pose(*at);
    if (const Node* density = node.find("density")) {
      options_.density = as_quantity(*density, dimension::density);
      if (!(*options_.density > 0.0)) throw density->error("a density must be above zero");
    }
    common_ = read_choice(node, {});
    links_ = &need(node, "bodies", "links");
    if (links_->kind != Node::Kind::map)
      throw links_->error("expected links with the numbers of their bodies",
                          "write them like base: [1, 4]");
  }

  void run() {
    std::vector<Bodies> files;
    for (const FileOrigin& one : options_.origins)
      files.push_back(in_file(one.file, [&] {
        return bodies_of(
            read_mesh_file(find_file(one.file, file_->place.file, file_->place), one.scale));
      }));
    bodies_ = joined(files);
    in_file(names_, [&] {
      give_to_links();
      take_posture();
      take_axes();
      read_shapes();
      read_looks_only();
      read_colours();
      added_ = add_bodies(arm_, bodies_, uses_, options_);
      note_what_came();
    });
  }

 private:
  // One name, or a list of them.
  void read_files(double scale) {
    const auto add = [&](const Node& node) {
      options_.origins.push_back(
          {.file = as_text(node, "a mesh file"), .scale = Vector3::Constant(scale)});
      const std::string& name = options_.origins.back().file;
      for (std::size_t i = 0; i + 1 < options_.origins.size(); ++i)
        if (options_.origins[i].file == name)
          throw node.error(fmt::format("'{}' is given twice", name), "keep one");
      names_ += (names_.empty() ? "" : ", ") + name;
    };
    if (file_->kind == Node::Kind::scalar) return add(*file_);
    for (const Node& one : as_list(*file_, "mesh files")) add(one);
    if (options_.origins.empty()) throw file_->error("no mesh file is named");
  }

  // Gives errors that have no place the one of the file.
  template <class Work>
  std::invoke_result_t<Work> in_file(const std::string& name, Work work) {
    try {
      return work();
    } catch (const InputError& error) {
      if (error.place().line > 0) throw;
      throw InputError(fmt::format("mesh '{}': {}", name, error.message()), error.advice(),
                       file_->place);
    }
  }

  void note(const Node& at, const std::string& text, const std::string& advice) {
    notes_.push_back({at.place, fmt::format("{}, mesh '{}'", arm_.name, names_), text, advice});
  }

  void give_to_links() {
    BodyList list(bodies_, options_.origins);
    const Node* left = node_.find("leave_out");
    for (const Node::Entry& entry : links_->entries)
      list.give_numbered(entry.value, link_named(entry, arm_), entry.key);
    if (left != nullptr) list.give_numbered(*left, kLeftOut, "what is left out");
    std::vector<int> dropped;
    double size = 0.0;
    read_length_above_zero(node_, "drop_below", size);
    if (size > 0.0) dropped = list.drop_below(size);
    for (const Node::Entry& entry : links_->entries)
      list.give_boxed(entry.value, link_named(entry, arm_), entry.key);
    if (left != nullptr) list.give_boxed(*left, kLeftOut, "what is left out");
    const std::vector<int> link_of = list.take(node_);
    std::vector<int> left_out;
    for (std::size_t i = 0; i < link_of.size(); ++i) {
      uses_.push_back({.link = link_of[i], .shape = common_});
      const int number = static_cast<int>(i) + 1;
      if (link_of[i] == kLeftOut &&
          std::find(dropped.begin(), dropped.end(), number) == dropped.end())
        left_out.push_back(number);
    }
    if (left != nullptr && !left_out.empty())
      note(*left, fmt::format("bodies are left out: {}", fmt::join(left_out, ", ")),
           "nothing is checked against them");
    if (size > 0.0)
      note(*node_.find("drop_below"),
           dropped.empty()
               ? "no body is that small"
               : fmt::format("bodies are left out as too small: {}", fmt::join(dropped, ", ")),
           dropped.empty() ? "leave it out" : "nothing is checked against them");
  }

  // In which the file shows the arm.
  void take_posture() {
    const Arm arm = bare_arm(arm_, options_.at.inverse());
    options_.posture = Posture::Zero(arm.dof());
    const Node* posture = node_.find("posture");
    if (posture != nullptr) options_.posture = read_posture(*posture, arm);
    const Node* zeros = node_.find("zeros");
    if (zeros == nullptr) return;
    // From the base outward: what a face says of a joint depends on those before it.
    std::map<const Link*, const Node*> by_link;
    for (const Node& one : as_list(*zeros, "zeros from faces")) {
      expect_keys(one, kZero, {"joint", "body", "near", "faces"});
      const Node& joint = need(one, kZero, "joint");
      if (!by_link.emplace(&turning_link(joint, arm), &one).second)
        throw joint.error("the zero of this joint is given twice", "keep one");
    }
    for (const auto& [link, one] : by_link) take_zero(*one, *link, arm);
  }
  void take_zero(const Node& node, const Link& link, const Arm& arm) {
    const Node& joint = need(node, kZero, "joint");
    double& entry = options_.posture[link.posture_index];
    if (entry != 0.0)
      throw joint.error(fmt::format("posture: says already how far {} is turned, {}",
                                    link.joint.name, text_angle(entry)),
                        "write 0 for it there, or leave it out here");
    const Node& body = need(node, kZero, "body");
    FaceAtZero face{.link = static_cast<int>(&link - arm.links().data()),
                    .body = read_number(body, bodies_)};
    const Node& near = need(node, kZero, "near");
    face.near = as_vector(near, dimension::length, "a point on a face");
    const Node& faces = need(node, kZero, "faces");
    face.faces = as_vector(faces, dimension::number, "where a face looks");
    if (!(face.faces.norm() > 0.0)) throw faces.error("this direction is of no length");
    // Directions are meant in the arm's base frame, places in that of the file.
    face.faces = options_.at.rotation.transpose() * face.faces;
    const TurnByFace found = [&] {
      try {
        return turn_by_face(face, bodies_, arm, options_.posture);
      } catch (const InputError& error) {
        throw near.placed(error);
      }
    }();
    constexpr double kFar = 0.017;  // rad
    if (found.off > kFar)
      throw faces.error(fmt::format("turned about {} this face comes no nearer to that than {}",
                                    link.joint.name, text_angle(found.off)),
                        fmt::format("in the file it looks along [{:.4f}, {:.4f}, {:.4f}]",
                                    found.normal.x(), found.normal.y(), found.normal.z()));
    entry = found.turn;
    note(node,
         fmt::format("joint {} is at {} in the file, by a face of body {}", link.joint.name,
                     text_angle(found.turn), face.body),
         "");
  }
  // One that turns on its own.
  static const Link& turning_link(const Node& node, const Arm& arm) {
    const std::string name = as_text(node, "a joint");
    std::vector<std::string> names;
    for (const Link& link : arm.links()) {
      if (link.joint.kind != JointKind::revolute || !link.joint.follow.joint.empty()) continue;
      if (link.joint.name == name) return link;
      names.push_back(link.joint.name);
    }
    throw node.placed(unknown_name("turning joint", name, names));
  }

  // Of joints that are to have their axes where a bore or boss has them.
  void take_axes() {
    const Node* axes = node_.find("axes");
    if (axes == nullptr) return;
    const Arm arm = bare_arm(arm_, options_.at.inverse());
    const Arm shown = standing_at(arm, options_.posture);
    std::vector<int> link_of;
    for (const BodyUse& use : uses_) link_of.push_back(use.link);
    const std::vector<RoundFeature> features = round_features(bodies_);
    AxisCheckOptions options;
    if (axes->kind == Node::Kind::list)
      for (const Node& one : axes->items)
        if (one.kind == Node::Kind::map) choose_feature(one, features, shown, options);
    std::vector<AxisFit> taken;
    for (const AxisFit& fit : chosen_among(check_axes(features, link_of, shown, options), *axes))
      if (fit.doubt || is_tilted(fit)) {
        taken.push_back(fit);
        note(*axes,
             fmt::format("joint {} is where the {} has it: {}", fit.joint, fit.feature->text(),
                         text_of(fit)),
             "correct the description, if the mesh is right");
      }
    const Arm right = corrected(shown, taken);
    const std::vector<Link> links =
        links_placed(arm, options_.posture, link_poses(right, Posture::Zero(right.dof())));
    for (std::size_t l = 0; l < arm_.links.size(); ++l)
      arm_.links[l].joint.origin = links[l].joint.origin;
  }
  // {joint: elbow, body: 8, near: [..]}: the bore or boss of this body that is nearest to a point,
  // else its largest.
  void choose_feature(const Node& node, const std::vector<RoundFeature>& features, const Arm& arm,
                      AxisCheckOptions& options) {
    const char* const kWhat = "an axis from a bore or boss";
    expect_keys(node, kWhat, {"joint", "body", "near"});
    const Link& link = turning_link(need(node, kWhat, "joint"), arm);
    const Node& body = need(node, kWhat, "body");
    const int number = read_number(body, bodies_);
    const Node* near = node.find("near");
    const Vector3 point =
        near == nullptr ? Vector3(Vector3::Zero()) : as_vector(*near, dimension::length, "a point");
    const RoundFeature* best = nullptr;
    const auto off = [&](const RoundFeature& one) {
      const Vector3 along =
          std::clamp(one.axis.dot(point - one.middle), -0.5 * one.length, 0.5 * one.length) *
          one.axis;
      return std::abs((point - one.middle - along).norm() - one.radius);
    };
    for (const RoundFeature& one : features)  // the largest first
      if (one.body == number && (best == nullptr || (near != nullptr && off(one) < off(*best))))
        best = &one;
    if (best == nullptr)
      throw body.error(fmt::format("body {} has no bore or boss", number),
                       "`elbowroom inspect FILE --cell CELL` lists those nearest to each axis");
    options.chosen.emplace(static_cast<int>(&link - arm.links().data()), *best);
  }

  // "all": of those that are near something round.
  static std::vector<AxisFit> chosen_among(std::vector<AxisFit> fits, const Node& axes) {
    if (axes.kind == Node::Kind::scalar) {
      one_of<bool>(axes, "axes of bodies", {"all"}, {true});
      std::erase_if(fits, [](const AxisFit& fit) { return !fit.feature; });
      return fits;
    }
    std::vector<std::string> names;
    for (const AxisFit& fit : fits) names.push_back(fit.joint);
    std::vector<AxisFit> out;
    for (const Node& entry : as_list(axes, "joints")) {
      const Node& one = entry.kind == Node::Kind::map ? need(entry, "an axis", "joint") : entry;
      const std::string name = as_text(one, "a joint");
      const auto fit =
          std::find_if(fits.begin(), fits.end(), [&](const AxisFit& f) { return f.joint == name; });
      if (fit == fits.end()) throw one.placed(unknown_name("turning joint", name, names));
      if (!fit->feature)
        throw one.error(fmt::format("joint {}: {}", name, text_of(*fit)),
                        "describe its axis, or look at `elbowroom inspect FILE --cell CELL`");
      out.push_back(*fit);
    }
    return out;
  }
  // By number, which must not be left out, or by a box.
  template <class Use>
  void for_each_meant(const Node& list, Use use) {
    for (const Node& one : as_list(list, "numbers of bodies")) {
      if (is_box(one)) {
        for (const int number : read_boxed(one, bodies_)) use(use_of(number));
        continue;
      }
      for (const int number : read_numbered(one, bodies_, options_.origins)) {
        if (use_of(number).link < 0)
          throw one.error(fmt::format("body {} is left out", number), "take it out here");
        use(use_of(number));
      }
    }
  }
  BodyUse& use_of(int number) { return uses_[static_cast<std::size_t>(number - 1)]; }

  void read_shapes() {
    const Node* shapes = node_.find("shapes");
    if (shapes == nullptr) return;
    for (const Node& one : as_list(*shapes, "shapes of bodies")) {
      expect_keys(one, "a shape of bodies",
                  {"bodies", "shape", "within", "detail", "looks", "looks_detail"});
      const ShapeChoice choice = read_choice(one, common_);
      for_each_meant(need(one, "a shape of bodies", "bodies"),
                     [&](BodyUse& use) { use.shape = choice; });
    }
  }

  void read_looks_only() {
    if (const Node* looks = node_.find("looks_only"))
      for_each_meant(*looks, [](BodyUse& use) { use.looks_only = true; });
  }

  void read_colours() {
    const Node* colours = node_.find("colours");
    if (colours == nullptr) return;
    if (colours->kind != Node::Kind::map)
      throw colours->error("expected links with their colours",
                           "write them like base: \"#8899aa\"");
    for (const Node::Entry& entry : colours->entries) {
      const int link = link_named(entry, arm_);
      for (BodyUse& use : uses_)
        if (use.link == link) use.colour = read_colour(entry.value);
    }
  }

  void note_looks_only(int number, const std::string& link, double beyond) {
    const std::string reach =
        std::isinf(beyond) ? fmt::format(", and nothing collides of link {}", link)
        : beyond > 0.0     ? fmt::format(", and reaches {:.1f} mm beyond what collides of link {}",
                                         1e3 * beyond, link)
                           : fmt::format(", within what collides of link {}", link);
    note(*node_.find("looks_only"), fmt::format("body {} is in pictures alone{}", number, reach),
         beyond > 0.0 ? "nothing is checked against it: keep clear of it by other means" : "");
  }

  void note_what_came() {
    for (std::size_t i = 0; i < added_.size(); ++i) {
      const BodyUse& use = uses_[i];
      const BodyAdded& one = added_[i];
      const int number = static_cast<int>(i) + 1;
      if (use.link < 0) continue;
      if (use.looks_only)
        note_looks_only(number, arm_.links[static_cast<std::size_t>(use.link)].name, one.beyond);
      else if (one.out > use.shape.within)
        note(
            *file_,
            fmt::format("what is checked of body {} ({}) stands out of it by up to {:.1f} mm, more "
                        "than {:.3g} mm",
                        number, one.shape, 1e3 * one.out, 1e3 * use.shape.within),
            "allow more by within:, or take shape: mesh");
    }
    if (const double off = bodies_.off(); off > 0.0) note(*file_, exact_surfaces_text(off), "");
    for (const std::string& done : bodies_.mended)
      note(*file_, "it was mended: " + done, "look at it, or mend the file");
  }

  const Node& node_;
  const Node* file_ = nullptr;
  const Node* links_ = nullptr;
  ArmDescription& arm_;
  std::vector<Note>& notes_;
  BodiesOnLinks options_;
  std::string names_;  // of all files
  ShapeChoice common_;
  Bodies bodies_;
  std::vector<BodyUse> uses_;
  std::vector<BodyAdded> added_;
};

}  // namespace

void read_bodies(const Node& node, const Colour& colour, ArmDescription& arm,
                 std::vector<Note>& notes) {
  BodiesReader(node, colour, arm, notes).run();
}

}  // namespace er
