#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <functional>
#include <map>
#include <pugixml.hpp>
#include <set>

#include "elbowroom/files/expansion.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/files/robot_xml.hpp"

namespace er {
namespace {

// Lines of a text by offset; the parser counts bytes.
class Lines {
 public:
  Lines(const std::string& text, std::string file) : text_(text), file_(std::move(file)) {}

  [[nodiscard]] Place at(std::ptrdiff_t offset) const {
    if (offset < 0) return {file_, 0, 0};
    const auto end =
        text_.begin() + std::min<std::ptrdiff_t>(offset, static_cast<std::ptrdiff_t>(text_.size()));
    const auto line = 1 + std::count(text_.begin(), end, '\n');
    const auto last = std::find(std::make_reverse_iterator(end), text_.rend(), '\n').base();
    return {file_, static_cast<int>(line), static_cast<int>(end - last) + 1};
  }
  [[nodiscard]] Place of(const pugi::xml_node& node) const {
    const Place place = at(node.offset_debug());
    return {place.file, place.line, std::max(1, place.column - 1)};  // the '<' itself
  }
  [[nodiscard]] InputError error(const pugi::xml_node& node, std::string message,
                                 std::string advice = {}) const {
    return InputError(std::move(message), std::move(advice), of(node));
  }

 private:
  const std::string& text_;
  std::string file_;
};

struct XmlJoint {
  pugi::xml_node node;
  std::string name;
  std::string type;
  std::string parent;
  std::string child;
};

class Reader {
 public:
  Reader(const std::string& text, const std::string& file) : lines_(text, file), file_(file) {
    const pugi::xml_parse_result result =
        document_.load_buffer(text.data(), text.size(), pugi::parse_default, pugi::encoding_auto);
    if (!result)
      throw InputError(fmt::format("this is not well-formed XML: {}", result.description()),
                       "the file may have been cut short", lines_.at(result.offset));
    robot_ = document_.child("robot");
    if (!robot_)
      throw InputError(
          "this is no robot XML file: it has no element <robot>",
          document_.first_child() ? fmt::format("found <{}>", document_.first_child().name()) : "",
          {file, 1, 1});
  }

  RobotXml read(const RobotXmlOptions& options) {
    RobotXml out;
    out.name = usable_name(robot_.attribute("name").value(), robot_, "robot");
    read_materials();
    collect();
    const std::string root = find_root(options.base);
    const std::set<std::string> kept = links_to_keep(root, options.tip);
    add_link(root, kept, out.links);
    for (const auto& [name, count] : passed_over_)
      passed_over_text_ +=
          fmt::format("{}{} ({})", passed_over_text_.empty() ? "" : ", ", name, count);
    if (!passed_over_text_.empty())
      note(robot_, "elements that the format does not have were passed over: " + passed_over_text_,
           "nothing to do, unless you counted on one of them");
    out.notes = std::move(notes_);
    return out;
  }

 private:
  // ---- small things

  void note(const pugi::xml_node& node, std::string text, std::string advice) {
    notes_.push_back({lines_.of(node), "robot XML", std::move(text), std::move(advice)});
  }

  std::string usable_name(const std::string& raw, const pugi::xml_node& node, const char* what) {
    std::string name = raw;
    for (char& c : name)
      if (c == ' ' || c == '.' || c == ',' || c == '\t' || c == '\n' || c == '\r') c = '_';
    if (name.empty())
      throw lines_.error(node, fmt::format("this {} has no name", what), "add name=\"...\"");
    if (name != raw && renamed_.insert(raw).second)
      note(node, fmt::format("the name '{}' is '{}' here", raw, name),
           "names have no blanks, dots or commas");
    return name;
  }

  double number(std::string_view text, const pugi::xml_node& node, const std::string& what) const {
    while (!text.empty() && (text.front() == ' ' || text.front() == '+')) text.remove_prefix(1);
    while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
    double value = 0.0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (code != std::errc{} || end != text.data() + text.size() || !std::isfinite(value))
      throw lines_.error(node, fmt::format("{} is '{}', which is no number", what, text));
    return value;
  }

  double attribute(const pugi::xml_node& node, const char* name, double otherwise) const {
    const pugi::xml_attribute found = node.attribute(name);
    return found ? number(found.value(), node, fmt::format("{} of <{}>", name, node.name()))
                 : otherwise;
  }
  double needed(const pugi::xml_node& node, const char* name) const {
    if (!node.attribute(name))
      throw lines_.error(node, fmt::format("<{}> needs the attribute {}", node.name(), name));
    return attribute(node, name, 0.0);
  }

  std::vector<double> numbers(const pugi::xml_node& node, const char* name, std::size_t count,
                              const std::vector<double>& otherwise) const {
    const pugi::xml_attribute found = node.attribute(name);
    if (!found) return otherwise;
    std::vector<double> values;
    std::string text = found.value();
    std::replace_if(
        text.begin(), text.end(), [](char c) { return c == '\t' || c == '\n' || c == '\r'; }, ' ');
    for (std::size_t start = 0; start < text.size();) {
      const std::size_t end = std::min(text.find(' ', start), text.size());
      if (end > start)
        values.push_back(number(std::string_view(text).substr(start, end - start), node,
                                fmt::format("{} of <{}>", name, node.name())));
      start = end + 1;
    }
    if (values.size() != count)
      throw lines_.error(node, fmt::format("{} of <{}> needs {} numbers, found {}", name,
                                           node.name(), count, values.size()));
    return values;
  }

  Vector3 vector(const pugi::xml_node& node, const char* name, const Vector3& otherwise) const {
    const auto v = numbers(node, name, 3, {otherwise.x(), otherwise.y(), otherwise.z()});
    return {v[0], v[1], v[2]};
  }

  Pose origin(const pugi::xml_node& parent) {
    const pugi::xml_node node = parent.child("origin");
    if (!node) return {};
    expect_children(node, {});
    const Vector3 rpy = vector(node, "rpy", Vector3::Zero());
    return {rotation_from_rpy(rpy.x(), rpy.y(), rpy.z()), vector(node, "xyz", Vector3::Zero())};
  }

  void expect_children(const pugi::xml_node& node, const std::vector<std::string_view>& known) {
    for (const pugi::xml_node& child : node.children())
      if (child.type() == pugi::node_element &&
          std::find(known.begin(), known.end(), child.name()) == known.end())
        ++passed_over_[child.name()];
  }

  // ---- links

  void read_materials() {
    for (const pugi::xml_node& node : robot_.children("material"))
      if (const auto colour = colour_of(node)) materials_[node.attribute("name").value()] = *colour;
  }

  std::optional<Colour> colour_of(const pugi::xml_node& material) {
    expect_children(material, {"color", "texture"});
    if (material.child("texture")) ++passed_over_["texture"];
    const pugi::xml_node node = material.child("color");
    if (!node) return std::nullopt;
    const auto rgba = numbers(node, "rgba", 4, {0.7, 0.7, 0.7, 1.0});
    const auto channel = [](double v) { return std::clamp(v, 0.0, 1.0); };
    if (rgba[3] < 1.0) ++passed_over_["transparency of a colour"];
    return Colour{channel(rgba[0]), channel(rgba[1]), channel(rgba[2])};
  }

  Shape geometry(const pugi::xml_node& parent) {
    const pugi::xml_node node = parent.child("geometry");
    if (!node) throw lines_.error(parent, fmt::format("<{}> has no <geometry>", parent.name()));
    for (const pugi::xml_node& shape : node.children()) {
      const std::string_view kind = shape.name();
      Shape out;
      if (kind == "box") {
        out = Box{vector(shape, "size", Vector3::Zero())};
      } else if (kind == "sphere") {
        out = Sphere{needed(shape, "radius")};
      } else if (kind == "cylinder") {
        out = Cylinder{needed(shape, "radius"), needed(shape, "length")};
      } else if (kind == "capsule") {
        out = Capsule{needed(shape, "radius"), needed(shape, "length")};
      } else if (kind == "mesh") {
        return mesh(shape);
      } else {
        continue;
      }
      try {
        check_shape(out, "");
      } catch (const InputError& error) {
        throw lines_.error(shape, error.message());
      }
      return out;
    }
    throw lines_.error(node, "<geometry> holds none of box, cylinder, sphere, capsule, mesh");
  }

  Shape mesh(const pugi::xml_node& node) {
    std::string name = node.attribute("filename").value();
    if (name.empty()) throw lines_.error(node, "<mesh> needs the attribute filename");
    const std::string written = name;
    // "package://NAME/path": NAME is a folder somewhere on the search path, or above this file.
    if (const std::string scheme = "package://"; name.rfind(scheme, 0) == 0)
      name = find_in_package(name.substr(scheme.size()), node);
    if (const std::string scheme = "file://"; name.rfind(scheme, 0) == 0)
      name = name.substr(scheme.size());
    Hull hull = read_hull(name, vector(node, "scale", Vector3::Ones()), lines_.of(node));
    auto data = std::make_shared<HullData>(*hull.data);
    data->file = written;
    ++meshes_;
    return Hull{data};
  }

  std::string find_in_package(const std::string& path, const pugi::xml_node& node) const {
    const std::size_t slash = path.find('/');
    const std::string inside = slash == std::string::npos ? path : path.substr(slash + 1);
    const std::string package = path.substr(0, slash);
    std::vector<std::filesystem::path> folders = search_path();
    std::error_code code;
    for (auto folder = std::filesystem::absolute(file_, code).parent_path();
         folder.has_relative_path(); folder = folder.parent_path()) {
      if (folder.filename() == package) folders.push_back(folder.parent_path());
      folders.push_back(folder);
    }
    std::string looked;
    for (const auto& folder : folders) {
      const auto candidate = folder / path;
      if (std::filesystem::is_regular_file(candidate, code)) return candidate.string();
    }
    for (const auto& folder : search_path()) looked += " " + (folder / path).string();
    throw lines_.error(node, fmt::format("there is no mesh '{}' of package '{}'", inside, package),
                       fmt::format("put the folder that holds '{}' into ELBOWROOM_PATH{}", package,
                                   looked.empty() ? "" : "; looked for:" + looked));
  }

  static bool same(const Part& a, const Part& b) {
    if (a.shape.index() != b.shape.index() || (a.at.position - b.at.position).norm() > 0.0 ||
        a.at.rotation != b.at.rotation)
      return false;
    if (const auto* box = std::get_if<Box>(&a.shape))
      return box->size == std::get<Box>(b.shape).size;
    if (const auto* ball = std::get_if<Sphere>(&a.shape))
      return ball->radius == std::get<Sphere>(b.shape).radius;
    if (const auto* one = std::get_if<Cylinder>(&a.shape)) {
      const auto& other = std::get<Cylinder>(b.shape);
      return one->radius == other.radius && one->length == other.length;
    }
    if (const auto* one = std::get_if<Capsule>(&a.shape)) {
      const auto& other = std::get<Capsule>(b.shape);
      return one->radius == other.radius && one->length == other.length;
    }
    const HullData& one = *std::get<Hull>(a.shape).data;
    const HullData& other = *std::get<Hull>(b.shape).data;
    return one.file == other.file && one.scale == other.scale;
  }

  std::vector<Part> parts(const pugi::xml_node& link) {
    std::vector<Part> all;
    for (const pugi::xml_node& node : link.children("visual")) {
      expect_children(node, {"origin", "geometry", "material"});
      Part part{.shape = geometry(node), .at = origin(node), .collides = false};
      if (const pugi::xml_node material = node.child("material")) {
        const auto named = materials_.find(material.attribute("name").value());
        if (const auto own = colour_of(material)) {
          part.colour = *own;
          materials_.emplace(material.attribute("name").value(), *own);
        } else if (named != materials_.end()) {
          part.colour = named->second;
        }
      }
      all.push_back(part);
    }
    const std::size_t visuals = all.size();
    for (const pugi::xml_node& node : link.children("collision")) {
      expect_children(node, {"origin", "geometry"});
      Part part{.shape = geometry(node), .at = origin(node), .looks = false};
      // What looks and collides alike is one part.
      const auto twin =
          std::find_if(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(visuals),
                       [&](const Part& p) { return !p.collides && same(p, part); });
      if (twin != all.begin() + static_cast<std::ptrdiff_t>(visuals)) {
        twin->collides = true;
      } else {
        all.push_back(part);
      }
    }
    return all;
  }

  Inertial inertial(const pugi::xml_node& link) {
    const pugi::xml_node node = link.child("inertial");
    if (!node) return {};
    expect_children(node, {"origin", "mass", "inertia"});
    Inertial out;
    if (const pugi::xml_node mass = node.child("mass")) out.mass = needed(mass, "value");
    if (const pugi::xml_node i = node.child("inertia")) {
      const double xy = attribute(i, "ixy", 0.0);
      const double xz = attribute(i, "ixz", 0.0);
      const double yz = attribute(i, "iyz", 0.0);
      const double xx = attribute(i, "ixx", 0.0);
      const double yy = attribute(i, "iyy", 0.0);
      const double zz = attribute(i, "izz", 0.0);
      out.inertia << xx, xy, xz, xy, yy, yz, xz, yz, zz;  // nothing here may throw
    }
    if (out.mass < 0.0) throw lines_.error(node, fmt::format("a mass of {:g} kg", out.mass));
    return moved(out, origin(node));
  }

  // ---- the tree

  void collect() {
    for (const pugi::xml_node& child : robot_.children()) {
      if (child.type() != pugi::node_element) continue;
      const std::string_view kind = child.name();
      if (kind == "link") {
        const std::string name = usable_name(child.attribute("name").value(), child, "link");
        if (!links_.emplace(name, child).second)
          throw lines_.error(child, fmt::format("the link '{}' stands twice, first in line {}",
                                                name, lines_.of(links_[name]).line));
        order_.push_back(name);
        expect_children(child, {"inertial", "visual", "collision"});
      } else if (kind == "joint") {
        collect_joint(child);
      } else if (kind != "material") {
        ++passed_over_[std::string(kind)];
      }
    }
    if (links_.empty()) throw lines_.error(robot_, "the file has no link");
    for (const XmlJoint& joint : joints_) {
      for (const std::string& end : {joint.parent, joint.child})
        if (links_.count(end) == 0)
          throw unknown_name(fmt::format("link in joint '{}'", joint.name), end, order_,
                             lines_.of(joint.node));
      const auto [other, added] = joint_of_child_.emplace(joint.child, &joint);
      if (!added)
        throw lines_.error(joint.node,
                           fmt::format("link '{}' hangs on two joints, '{}' and '{}'", joint.child,
                                       other->second->name, joint.name),
                           "a robot XML file holds a tree: each link has one parent");
    }
  }

  void collect_joint(const pugi::xml_node& node) {
    expect_children(node, {"origin", "parent", "child", "axis", "limit", "mimic", "dynamics"});
    XmlJoint joint{node, usable_name(node.attribute("name").value(), node, "joint"),
                   node.attribute("type").value(), "", ""};
    if (!joint_names_.insert(joint.name).second)
      throw lines_.error(node, fmt::format("the joint '{}' stands twice", joint.name));
    for (const auto& [key, out] :
         {std::pair{"parent", &joint.parent}, std::pair{"child", &joint.child}}) {
      const pugi::xml_node end = node.child(key);
      if (!end || std::string_view(end.attribute("link").value()).empty())
        throw lines_.error(node, fmt::format("joint '{}' names no {} link", joint.name, key));
      *out = usable_name(end.attribute("link").value(), end, "link");
    }
    joints_.push_back(joint);
  }

  std::string find_root(const std::string& wanted) {
    if (!wanted.empty()) {
      if (links_.count(wanted) == 0)
        throw unknown_name("link to begin with", wanted, order_, {file_, 0, 0});
      return wanted;
    }
    std::vector<std::string> roots;
    for (const std::string& name : order_)
      if (joint_of_child_.count(name) == 0) roots.push_back(name);
    if (roots.empty())
      throw lines_.error(robot_, "the links hang on each other in a loop: none is the root",
                         "a robot XML file holds a tree; cut the loop and let a joint follow");
    if (roots.size() > 1)
      throw lines_.error(links_[roots[1]],
                         fmt::format("there are two roots: '{}' and '{}'", roots[0], roots[1]),
                         "join one to the other, or name the base link that is wanted");
    return roots[0];
  }

  std::set<std::string> links_to_keep(const std::string& root, const std::string& tip) {
    const auto children = [&](const std::string& link, auto use) {
      for (const XmlJoint& joint : joints_)
        if (joint.parent == link) use(joint);
    };
    std::set<std::string> kept;
    const std::function<void(const std::string&, bool)> take = [&](const std::string& link,
                                                                   bool rigid_only) {
      if (!kept.insert(link).second) return;
      children(link, [&](const XmlJoint& joint) {
        if (!rigid_only || joint.type == "fixed") take(joint.child, rigid_only);
      });
    };
    if (tip.empty()) {
      take(root, false);
      if (kept.size() < order_.size() && roots_are_all_reached(root)) {
        for (const std::string& name : order_)
          if (kept.count(name) == 0)
            throw lines_.error(links_[name],
                               fmt::format("link '{}' hangs in a loop of joints that does not "
                                           "reach the root '{}'",
                                           name, root));
      }
      return kept;
    }
    if (links_.count(tip) == 0) throw unknown_name("tip link", tip, order_, {file_, 0, 0});
    std::vector<std::string> way{tip};
    while (way.back() != root) {
      const auto up = joint_of_child_.find(way.back());
      if (up == joint_of_child_.end() || way.size() > order_.size())
        throw InputError(fmt::format("link '{}' does not hang on '{}'", tip, root), "",
                         {file_, 0, 0});
      way.push_back(up->second->parent);
    }
    take(tip, false);
    for (const std::string& link : way) {
      kept.erase(link);
      if (link != tip) take(link, true);
      kept.insert(link);
    }
    return kept;
  }

  // True when the root was found and not named: then every link must hang on it.
  [[nodiscard]] bool roots_are_all_reached(const std::string& root) const {
    return joint_of_child_.count(root) == 0;
  }

  void add_link(const std::string& name, const std::set<std::string>& kept,
                std::vector<Link>& links, const XmlJoint* by = nullptr) {
    const pugi::xml_node node = links_[name];
    Link link;
    link.name = name;
    link.parts = parts(node);
    link.inertial = inertial(node);
    link.place = lines_.of(node);
    if (by != nullptr) {
      if (by->type == "planar" || by->type == "floating") {
        add_compound(*by, link, links);
      } else {
        link.parent = by->parent;
        link.joint = joint_of(*by);
        links.push_back(std::move(link));
      }
    } else {
      links.push_back(std::move(link));
    }
    for (const XmlJoint& joint : joints_)
      if (joint.parent == name && kept.count(joint.child) != 0)
        add_link(joint.child, kept, links, &joint);
  }

  Joint joint_of(const XmlJoint& from) {
    Joint joint;
    joint.name = from.name;
    joint.origin = origin(from.node);
    if (from.type == "fixed") return joint;
    static const std::vector<std::string> kTypes{"revolute", "continuous", "prismatic",
                                                 "fixed",    "planar",     "floating"};
    if (std::find(kTypes.begin(), kTypes.end(), from.type) == kTypes.end())
      throw unknown_name(fmt::format("type of joint '{}'", from.name), from.type, kTypes,
                         lines_.of(from.node));
    joint.kind = from.type == "prismatic" ? JointKind::prismatic : JointKind::revolute;
    joint.continuous = from.type == "continuous";
    joint.axis = axis_of(from);
    limits_of(from, joint);
    if (const pugi::xml_node mimic = from.node.child("mimic")) {
      joint.follow.joint = usable_name(mimic.attribute("joint").value(), mimic, "joint to follow");
      joint.follow.ratio = attribute(mimic, "multiplier", 1.0);
      joint.follow.offset = attribute(mimic, "offset", 0.0);
    }
    if (const pugi::xml_node dynamics = from.node.child("dynamics")) {
      joint.damping = attribute(dynamics, "damping", 0.0);
      joint.friction = attribute(dynamics, "friction", 0.0);
    }
    return joint;
  }

  Vector3 axis_of(const XmlJoint& from) {
    const Vector3 axis = vector(from.node.child("axis"), "xyz", Vector3::UnitX());
    const double length = axis.norm();
    if (!(length > 1e-9))
      throw lines_.error(from.node,
                         fmt::format("the axis of joint '{}' has no direction", from.name));
    if (std::abs(length - 1.0) > 1e-3)
      note(from.node,
           fmt::format("the axis of joint '{}' has length {:g}; it is taken as 1", from.name,
                       length),
           "give an axis of length 1");
    return std::abs(length - 1.0) < 1e-12 ? axis : Vector3(axis / length);
  }

  void limits_of(const XmlJoint& from, Joint& joint) {
    const pugi::xml_node node = from.node.child("limit");
    const bool ranged = !joint.continuous;
    if (!node) {
      if (ranged)
        note(from.node, fmt::format("joint '{}' has no <limit>, so its range is open", from.name),
             "state lower and upper");
      return;
    }
    JointLimits& limits = joint.limits;
    if (ranged) {
      // The format's own default for either is zero.
      limits.lower = attribute(node, "lower", 0.0);
      limits.upper = attribute(node, "upper", 0.0);
      if (limits.lower > limits.upper)
        throw lines_.error(node, fmt::format("the limits of joint '{}' are the wrong way round: "
                                             "lower {:g} is above upper {:g}",
                                             from.name, limits.lower, limits.upper));
      if (limits.lower == limits.upper)
        note(node, fmt::format("joint '{}' has no room between its limits", from.name),
             "check lower and upper");
    }
    const auto positive = [&](const char* key, double& out) {
      if (!node.attribute(key)) return;
      const double value = attribute(node, key, 0.0);
      if (value > 0.0) {
        out = value;
      } else {
        note(node,
             fmt::format("the {} limit of joint '{}' is {:g}: taken as not stated", key, from.name,
                         value),
             "state a limit above zero");
      }
    };
    positive("velocity", limits.velocity);
    positive("effort", limits.torque);
  }

  // A planar joint slides in two directions and turns about the third; a floating one does all six.
  void add_compound(const XmlJoint& from, Link& last, std::vector<Link>& links) {
    const bool planar = from.type == "planar";
    const Matrix3 frame = planar ? rotation_with_z(axis_of(from)) : Matrix3(Matrix3::Identity());
    struct Step {
      const char* name;
      JointKind kind;
      Vector3 axis;
    };
    std::vector<Step> steps{{"x", JointKind::prismatic, frame.col(0)},
                            {"y", JointKind::prismatic, frame.col(1)}};
    if (planar) {
      steps.push_back({"turn", JointKind::revolute, frame.col(2)});
    } else {
      steps.push_back({"z", JointKind::prismatic, frame.col(2)});
      for (const int i : {2, 1, 0}) {
        static constexpr std::array kTurns{"roll", "pitch", "yaw"};
        steps.push_back({kTurns[static_cast<std::size_t>(i)], JointKind::revolute, frame.col(i)});
      }
    }
    std::string parent = from.parent;
    for (std::size_t i = 0; i < steps.size(); ++i) {
      Link link;
      if (i + 1 == steps.size()) link = last;
      if (i + 1 < steps.size()) link.name = last.name + "_" + steps[i].name;
      link.place = last.place;
      link.parent = parent;
      link.joint.name = from.name + "_" + steps[i].name;
      link.joint.kind = steps[i].kind;
      link.joint.continuous = steps[i].kind == JointKind::revolute;
      link.joint.axis = steps[i].axis;
      link.joint.part_of = from.name;
      if (i == 0) link.joint.origin = origin(from.node);
      parent = link.name;
      links.push_back(std::move(link));
    }
  }

  pugi::xml_document document_;
  pugi::xml_node robot_;
  Lines lines_;
  std::string file_;
  std::vector<std::string> order_;  // names of links
  std::map<std::string, pugi::xml_node> links_;
  std::vector<XmlJoint> joints_;
  std::set<std::string> joint_names_;
  std::map<std::string, const XmlJoint*> joint_of_child_;
  std::map<std::string, Colour> materials_;
  std::map<std::string, int> passed_over_;
  std::string passed_over_text_;
  std::set<std::string> renamed_;
  std::vector<Note> notes_;
  int meshes_ = 0;
};

RobotXmlOptions read_options(const Node& node, std::string& file, Place& place,
                             const std::vector<std::string>& keys) {
  RobotXmlOptions options;
  const Node* name = &node;
  if (node.kind == Node::Kind::map) {
    expect_keys(node, "a robot XML file", keys);
    name = &need(node, "a robot XML file", "file");
    if (const Node* base = node.find("base")) options.base = as_text(*base, "a link name");
    if (const Node* tip = node.find("tip")) options.tip = as_text(*tip, "a link name");
  }
  file = as_text(*name, "a file name");
  place = name->place;
  return options;
}

}  // namespace

RobotXml parse_robot_xml(const std::string& text, const std::string& file,
                         const RobotXmlOptions& options) {
  return Reader(text, file).read(options);
}

RobotXml read_robot_xml(const std::filesystem::path& path, const RobotXmlOptions& options) {
  return parse_robot_xml(read_text(path), path.string(), options);
}

void read_robot_xml_form(const Node& node, ArmDescription& arm, std::vector<Note>& notes) {
  std::string file;
  Place place;
  const RobotXmlOptions options = read_options(node, file, place, {"file", "base", "tip"});
  RobotXml robot = read_robot_xml(find_file(file, place.file, place), options);
  arm.links = std::move(robot.links);
  notes.insert(notes.end(), robot.notes.begin(), robot.notes.end());
}

std::vector<Part> read_frozen_robot_xml(const Node& node, std::vector<Note>& notes) {
  std::string file;
  Place place;
  const RobotXmlOptions options =
      read_options(node, file, place, {"file", "base", "tip", "posture"});
  const RobotXml robot = read_robot_xml(find_file(file, place.file, place), options);
  notes.insert(notes.end(), robot.notes.begin(), robot.notes.end());
  const Arm arm = Arm::build({.name = "frozen", .links = robot.links});
  Posture posture = Posture::Zero(arm.dof());
  if (const Node* values = node.find("posture")) {
    std::vector<std::string> known;
    for (int k = 0; k < arm.dof(); ++k) known.push_back(arm.moving_joint(k).name);
    expect_keys(*values, "the posture of this mechanism", known);
    for (int k = 0; k < arm.dof(); ++k)
      if (const Node* value = values->find(known[static_cast<std::size_t>(k)]))
        posture[k] = as_quantity(*value, value_dimension(arm.moving_joint(k).kind));
  }
  if (const std::string breach = arm.limit_breach(posture); !breach.empty())
    throw node.error(breach, "freeze it within its range");
  std::vector<Pose> poses(arm.links().size());
  std::vector<Part> parts;
  for (std::size_t i = 0; i < poses.size(); ++i) {
    const Link& link = arm.links()[i];
    const Pose local = pose_at(link.joint, joint_value(link, posture));
    poses[i] = i == 0 ? local : poses[static_cast<std::size_t>(link.parent_index)] * local;
    for (Part part : link.parts) {
      part.at = poses[i] * part.at;
      parts.push_back(part);
    }
  }
  return parts;
}

}  // namespace er
