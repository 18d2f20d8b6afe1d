// What a robot XML file says of one link: its shapes, colours and mass.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "elbowroom/files/xml_values.hpp"
#include "elbowroom/model/inertial.hpp"

namespace er {

class RobotXmlShapes {
 public:
  /// Reads the materials that stand beside the links. `xml` must outlive this.
  RobotXmlShapes(XmlValues& xml, const pugi::xml_node& robot);

  /// Visuals and collisions; what looks and collides alike is one part.
  std::vector<Part> parts(const pugi::xml_node& link);
  /// Along the axes of the link; nothing when it is not stated.
  Inertial inertial(const pugi::xml_node& link);

 private:
  struct Material {
    std::optional<Colour> colour = {};
    std::string texture = {};
  };
  Material read_material(const pugi::xml_node& node);
  void paint(const pugi::xml_node& node, Part& part);
  Shape geometry(const pugi::xml_node& parent);
  Shape mesh(const pugi::xml_node& node);
  std::string find_in_package(const std::string& path, const pugi::xml_node& node) const;

  XmlValues& xml_;
  std::map<std::string, Material> materials_;
};

}  // namespace er
