#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <optional>
#include <set>

#include "elbowroom/files/robot_xml.hpp"
#include "elbowroom/files/robot_xml_shapes.hpp"

namespace er {
namespace {

struct XmlJoint {
  pugi::xml_node node;
  std::string name;
  std::string type;
  std::string parent;
  std::string child;
};

// Puts the tree of links together, joint by joint.
class RobotXmlReader {
 public:
  RobotXmlReader(const std::string& text, const std::string& file) : xml_(text, file) {
    const pugi::xml_parse_result result =
        document_.load_buffer(text.data(), text.size(), pugi::parse_default, pugi::encoding_auto);
    if (!result)
      throw InputError(fmt::format("this is not well-formed XML: {}", result.description()),
                       "the file may have been cut short", xml_.place_at(result.offset));
    robot_ = document_.child("robot");
    if (!robot_)
      throw InputError(
          "this is no robot XML file: it has no element <robot>",
          document_.first_child() ? fmt::format("found <{}>", document_.first_child().name()) : "",
          {file, 1, 1});
  }

  RobotXml read(const RobotXmlOptions& options) {
    RobotXml out;
    out.name = xml_.usable_name(robot_.attribute("name").value(), robot_, "robot");
    shapes_.emplace(xml_, robot_);
    collect();
    const std::string root = find_root(options.base);
    const std::set<std::string> kept = links_to_keep(root, options.tip);
    add_link(root, kept, out.links);
    out.notes = xml_.take_notes(robot_);
    return out;
  }

 private:
  void collect() {
    for (const pugi::xml_node& child : robot_.children()) {
      if (child.type() != pugi::node_element) continue;
      const std::string_view kind = child.name();
      if (kind == "link") {
        const std::string name = xml_.usable_name(child.attribute("name").value(), child, "link");
        if (!links_.emplace(name, child).second)
          throw xml_.error(child, fmt::format("the link '{}' stands twice, first in line {}", name,
                                              xml_.place_of(links_[name]).line));
        order_.push_back(name);
        xml_.expect_children(child, {"inertial", "visual", "collision"});
      } else if (kind == "joint") {
        collect_joint(child);
      } else if (kind != "material") {
        xml_.pass_over(std::string(kind));
      }
    }
    if (links_.empty()) throw xml_.error(robot_, "the file has no link");
    for (const XmlJoint& joint : joints_) {
      for (const std::string& end : {joint.parent, joint.child})
        if (links_.count(end) == 0)
          throw unknown_name(fmt::format("link of joint '{}':", joint.name), end, order_,
                             xml_.place_of(joint.node));
      const auto [other, added] = joint_of_child_.emplace(joint.child, &joint);
      if (!added)
        throw xml_.error(joint.node,
                         fmt::format("link '{}' hangs on two joints, '{}' and '{}'", joint.child,
                                     other->second->name, joint.name),
                         "a robot XML file holds a tree: each link has one parent");
    }
  }

  void collect_joint(const pugi::xml_node& node) {
    xml_.expect_children(node, {"origin", "parent", "child", "axis", "limit", "mimic", "dynamics"});
    XmlJoint joint{node, xml_.usable_name(node.attribute("name").value(), node, "joint"),
                   node.attribute("type").value(), "", ""};
    if (!joint_names_.insert(joint.name).second)
      throw xml_.error(node, fmt::format("the joint '{}' stands twice", joint.name));
    for (const auto& [key, out] :
         {std::pair{"parent", &joint.parent}, std::pair{"child", &joint.child}}) {
      const pugi::xml_node end = node.child(key);
      if (!end || std::string_view(end.attribute("link").value()).empty())
        throw xml_.error(node, fmt::format("joint '{}' names no {} link", joint.name, key));
      *out = xml_.usable_name(end.attribute("link").value(), end, "link");
    }
    joints_.push_back(joint);
  }

  std::string find_root(const std::string& wanted) {
    if (!wanted.empty()) {
      if (links_.count(wanted) == 0)
        throw unknown_name("link to begin with", wanted, order_, {xml_.file(), 0, 0});
      return wanted;
    }
    std::vector<std::string> roots;
    for (const std::string& name : order_)
      if (joint_of_child_.count(name) == 0) roots.push_back(name);
    if (roots.empty())
      throw xml_.error(robot_, "the links hang on each other in a loop: none is the root",
                       "a robot XML file holds a tree; cut the loop and let a joint follow");
    if (roots.size() > 1)
      throw xml_.error(links_[roots[1]],
                       fmt::format("there are two roots: '{}' and '{}'", roots[0], roots[1]),
                       "join one to the other, or name the base link that is wanted");
    return roots[0];
  }

  std::set<std::string> links_to_keep(const std::string& root, const std::string& tip) {
    std::multimap<std::string, const XmlJoint*> children;
    for (const XmlJoint& joint : joints_) children.emplace(joint.parent, &joint);
    std::set<std::string> kept;
    // A list, not a recursion: how deep a file's tree goes is up to the file.
    const auto take = [&](const std::string& from, bool rigid_only) {
      std::vector<std::string> open{from};
      while (!open.empty()) {
        const std::string link = std::move(open.back());
        open.pop_back();
        if (!kept.insert(link).second) continue;
        const auto [first, last] = children.equal_range(link);
        for (auto joint = first; joint != last; ++joint)
          if (!rigid_only || joint->second->type == "fixed") open.push_back(joint->second->child);
      }
    };
    if (tip.empty()) {
      take(root, false);
      if (joint_of_child_.count(root) == 0) {  // the root of the whole file: it must carry all
        for (const std::string& name : order_)
          if (kept.count(name) == 0)
            throw xml_.error(links_[name],
                             fmt::format("link '{}' hangs in a loop of joints that does not "
                                         "reach the root '{}'",
                                         name, root));
      }
      return kept;
    }
    if (links_.count(tip) == 0) throw unknown_name("tip link", tip, order_, {xml_.file(), 0, 0});
    std::vector<std::string> way{tip};
    while (way.back() != root) {
      const auto up = joint_of_child_.find(way.back());
      if (up == joint_of_child_.end() || way.size() > order_.size())
        throw InputError(fmt::format("link '{}' does not hang on '{}'", tip, root), "",
                         {xml_.file(), 0, 0});
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

  void add_link(const std::string& name, const std::set<std::string>& kept,
                std::vector<Link>& links, const XmlJoint* by = nullptr) {
    const pugi::xml_node node = links_[name];
    constexpr std::size_t kDeepest = 1000;
    if (links.size() > kDeepest)
      throw xml_.error(node, fmt::format("the file has more than {} links", kDeepest));
    Link link;
    link.name = name;
    link.parts = shapes_->parts(node);
    link.inertial = shapes_->inertial(node);
    link.place = xml_.place_of(node);
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
    joint.origin = xml_.origin(from.node);
    if (from.type == "fixed") return joint;
    static const std::vector<std::string> kTypes{"revolute", "continuous", "prismatic",
                                                 "fixed",    "planar",     "floating"};
    if (std::find(kTypes.begin(), kTypes.end(), from.type) == kTypes.end())
      throw unknown_name(fmt::format("type of joint '{}'", from.name), from.type, kTypes,
                         xml_.place_of(from.node));
    joint.kind = from.type == "prismatic" ? JointKind::prismatic : JointKind::revolute;
    joint.continuous = from.type == "continuous";
    joint.axis = axis_of(from);
    limits_of(from, joint);
    if (const pugi::xml_node mimic = from.node.child("mimic")) {
      joint.follow.joint =
          xml_.usable_name(mimic.attribute("joint").value(), mimic, "joint to follow");
      joint.follow.ratio = xml_.attribute(mimic, "multiplier", 1.0);
      joint.follow.offset = xml_.attribute(mimic, "offset", 0.0);
    }
    if (const pugi::xml_node dynamics = from.node.child("dynamics")) {
      joint.damping = xml_.attribute(dynamics, "damping", 0.0);
      joint.friction = xml_.attribute(dynamics, "friction", 0.0);
    }
    return joint;
  }

  Vector3 axis_of(const XmlJoint& from) {
    const Vector3 axis = xml_.vector(from.node.child("axis"), "xyz", Vector3::UnitX());
    const double length = axis.norm();
    if (!(length > 1e-9))
      throw xml_.error(from.node,
                       fmt::format("the axis of joint '{}' has no direction", from.name));
    if (std::abs(length - 1.0) > 1e-3)
      xml_.note(from.node,
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
        xml_.note(from.node,
                  fmt::format("joint '{}' has no <limit>, so its range is open", from.name),
                  "state lower and upper");
      return;
    }
    JointLimits& limits = joint.limits;
    if (ranged) {
      // The format's own default for either is zero.
      limits.lower = xml_.attribute(node, "lower", 0.0);
      limits.upper = xml_.attribute(node, "upper", 0.0);
      if (limits.lower > limits.upper)
        throw xml_.error(node,
                         fmt::format("the limits of joint '{}' are the wrong way round: "
                                     "lower {:g} is above upper {:g}",
                                     from.name, limits.lower, limits.upper),
                         "swap the two, or check their signs");
      if (limits.lower == limits.upper)
        xml_.note(node, fmt::format("joint '{}' has no room between its limits", from.name),
                  "check lower and upper");
    }
    const auto positive = [&](const char* key, double& out) {
      if (!node.attribute(key)) return;
      const double value = xml_.attribute(node, key, 0.0);
      if (value > 0.0) {
        out = value;
      } else {
        xml_.note(node,
                  fmt::format("the {} limit of joint '{}' is {:g}: taken as not stated", key,
                              from.name, value),
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
      if (i == 0) link.joint.origin = xml_.origin(from.node);
      parent = link.name;
      links.push_back(std::move(link));
    }
  }

  XmlValues xml_;
  pugi::xml_document document_;
  pugi::xml_node robot_;
  std::optional<RobotXmlShapes> shapes_;
  std::vector<std::string> order_;  // names of links
  std::map<std::string, pugi::xml_node> links_;
  std::vector<XmlJoint> joints_;
  std::set<std::string> joint_names_;
  std::map<std::string, const XmlJoint*> joint_of_child_;
};

}  // namespace

RobotXml parse_robot_xml(const std::string& text, const std::string& file,
                         const RobotXmlOptions& options) {
  return RobotXmlReader(text, file).read(options);
}

RobotXml read_robot_xml(const std::filesystem::path& path, const RobotXmlOptions& options) {
  return parse_robot_xml(read_text(path), path.string(), options);
}

}  // namespace er
