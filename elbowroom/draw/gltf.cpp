#include "elbowroom/draw/gltf.hpp"

#include <fmt/format.h>
#include <tiny_gltf.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <cstring>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/draw/scene.hpp"
#include "elbowroom/draw/tool_path.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/arms_as_one.hpp"

namespace er {
namespace {

constexpr double kMostTurn = 1.0;  // rad of any joint between two key frames
constexpr float kStill = 1e-7F;    // a channel that changes by less is left out

Eigen::Vector4f as_xyzw(const Matrix3& rotation) {
  const Eigen::Vector4d wxyz = quaternion_wxyz(rotation);
  return Eigen::Vector4d(wxyz[1], wxyz[2], wxyz[3], wxyz[0]).cast<float>();
}

// Puts a model together: numbers go into one buffer, each list with a view and an accessor.
class Builder {
 public:
  Builder() {
    model_.asset.version = "2.0";
    model_.asset.generator = "Elbowroom";
    model_.buffers.emplace_back();
    model_.scenes.emplace_back();
    model_.defaultScene = 0;
    tinygltf::Node world;
    world.name = "world";
    const double half = std::sqrt(0.5);
    world.rotation = {-half, 0.0, 0.0, half};  // z up to y up
    model_.nodes.push_back(std::move(world));
    model_.scenes[0].nodes.push_back(0);
  }

  int add_node(const std::string& name, int parent, const Pose& at) {
    tinygltf::Node node;
    node.name = name;
    node.translation = {at.position.x(), at.position.y(), at.position.z()};
    const Eigen::Vector4f q = as_xyzw(at.rotation);
    node.rotation = {q[0], q[1], q[2], q[3]};
    model_.nodes.push_back(std::move(node));
    const int index = static_cast<int>(model_.nodes.size()) - 1;
    model_.nodes[static_cast<std::size_t>(parent)].children.push_back(index);
    return index;
  }

  // What of the parts is there for looks, as a mesh of the node.
  void add_parts(int node, const std::vector<Part>& parts) {
    tinygltf::Mesh mesh;
    for (const Part& part : parts)
      if (part.looks)
        mesh.primitives.push_back(primitive(tessellate(part.shape, part.at, part.colour)));
    give(node, std::move(mesh));
  }

  void add_line(int node, const std::vector<Vector3>& points, const Colour& colour) {
    std::vector<float> values;
    for (const Vector3& point : points)
      for (const double value : point) values.push_back(static_cast<float>(value));
    tinygltf::Primitive line;
    line.mode = TINYGLTF_MODE_LINE_STRIP;
    line.attributes["POSITION"] = vectors(values, TINYGLTF_TYPE_VEC3, TINYGLTF_TARGET_ARRAY_BUFFER);
    line.material = material(colour);
    tinygltf::Mesh mesh;
    mesh.primitives.push_back(std::move(line));
    give(node, std::move(mesh));
  }

  // A channel of the animation; nothing where the values stay as they are.
  void animate(int node, const char* path, const std::vector<float>& values, int type) {
    const std::size_t each = type == TINYGLTF_TYPE_VEC4 ? 4 : 3;
    bool still = true;
    for (std::size_t i = 0; i < values.size(); ++i)
      still = still && std::abs(values[i] - values[i % each]) < kStill;
    if (still) return;
    if (model_.animations.empty()) model_.animations.emplace_back();
    tinygltf::Animation& animation = model_.animations[0];
    animation.name = "motion";
    tinygltf::AnimationSampler sampler;
    sampler.input = times_;
    sampler.output = vectors(values, type, 0);
    sampler.interpolation = "LINEAR";
    tinygltf::AnimationChannel channel;
    channel.sampler = static_cast<int>(animation.samplers.size());
    channel.target_node = node;
    channel.target_path = path;
    animation.samplers.push_back(std::move(sampler));
    animation.channels.push_back(std::move(channel));
  }

  void set_times(const std::vector<TimedPosture>& frames) {
    std::vector<float> values;
    for (const TimedPosture& frame : frames) values.push_back(static_cast<float>(frame.time));
    times_ = vectors(values, TINYGLTF_TYPE_SCALAR, 0);
  }

  [[nodiscard]] tinygltf::Model& model() { return model_; }

 private:
  void give(int node, tinygltf::Mesh mesh) {
    if (mesh.primitives.empty()) return;
    model_.meshes.push_back(std::move(mesh));
    model_.nodes[static_cast<std::size_t>(node)].mesh = static_cast<int>(model_.meshes.size()) - 1;
  }

  tinygltf::Primitive primitive(const SceneMesh& mesh) {
    const auto flat = [](const std::vector<Eigen::Vector3f>& points) {
      std::vector<float> values;
      for (const Eigen::Vector3f& point : points)
        values.insert(values.end(), point.begin(), point.end());
      return values;
    };
    std::vector<std::uint32_t> corners;
    for (const auto& triangle : mesh.triangles)
      corners.insert(corners.end(), triangle.begin(), triangle.end());
    tinygltf::Primitive out;
    out.mode = TINYGLTF_MODE_TRIANGLES;
    out.attributes["POSITION"] =
        vectors(flat(mesh.vertices), TINYGLTF_TYPE_VEC3, TINYGLTF_TARGET_ARRAY_BUFFER);
    out.attributes["NORMAL"] =
        vectors(flat(mesh.normals), TINYGLTF_TYPE_VEC3, TINYGLTF_TARGET_ARRAY_BUFFER);
    out.indices = accessor(corners.data(), corners.size() * sizeof(std::uint32_t), corners.size(),
                           TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT, TINYGLTF_TYPE_SCALAR,
                           TINYGLTF_TARGET_ELEMENT_ARRAY_BUFFER);
    out.material = material(mesh.colour);
    return out;
  }

  // Floats, with the least and the largest of each component, which the format asks for.
  int vectors(const std::vector<float>& values, int type, int target) {
    const auto each = static_cast<std::size_t>(
        tinygltf::GetNumComponentsInType(static_cast<std::uint32_t>(type)));
    const int index = accessor(values.data(), values.size() * sizeof(float), values.size() / each,
                               TINYGLTF_COMPONENT_TYPE_FLOAT, type, target);
    tinygltf::Accessor& out = model_.accessors[static_cast<std::size_t>(index)];
    for (std::size_t k = 0; k < each; ++k) {
      float least = values[k];
      float most = values[k];
      for (std::size_t i = k; i < values.size(); i += each) {
        least = std::min(least, values[i]);
        most = std::max(most, values[i]);
      }
      out.minValues.push_back(static_cast<double>(least));
      out.maxValues.push_back(static_cast<double>(most));
    }
    return index;
  }

  int accessor(const void* data, std::size_t bytes, std::size_t count, int component, int type,
               int target) {
    std::vector<unsigned char>& buffer = model_.buffers[0].data;
    tinygltf::BufferView view;
    view.buffer = 0;
    view.byteOffset = buffer.size();
    view.byteLength = bytes;
    view.target = target;
    buffer.resize(buffer.size() + bytes);
    std::memcpy(buffer.data() + view.byteOffset, data, bytes);
    model_.bufferViews.push_back(std::move(view));
    tinygltf::Accessor accessor;
    accessor.bufferView = static_cast<int>(model_.bufferViews.size()) - 1;
    accessor.componentType = component;
    accessor.type = type;
    accessor.count = count;
    model_.accessors.push_back(std::move(accessor));
    return static_cast<int>(model_.accessors.size()) - 1;
  }

  // One for each colour. Ours are as screens take them (sRGB), the format's are linear.
  int material(const Colour& colour) {
    const auto linear = [](double value) {
      return value <= 0.04045 ? value / 12.92 : std::pow((value + 0.055) / 1.055, 2.4);
    };
    const std::vector<double> factor{linear(colour.red), linear(colour.green), linear(colour.blue),
                                     colour.opacity};
    for (std::size_t i = 0; i < model_.materials.size(); ++i)
      if (model_.materials[i].pbrMetallicRoughness.baseColorFactor == factor)
        return static_cast<int>(i);
    tinygltf::Material out;
    out.pbrMetallicRoughness.baseColorFactor = factor;
    out.pbrMetallicRoughness.metallicFactor = 0.0;
    out.pbrMetallicRoughness.roughnessFactor = 0.7;
    out.doubleSided = true;  // skins have two sides
    if (colour.opacity < 1.0) out.alphaMode = "BLEND";
    model_.materials.push_back(std::move(out));
    return static_cast<int>(model_.materials.size()) - 1;
  }

  tinygltf::Model model_;
  int times_ = -1;
};

// More key frames, so that no joint turns too far between two of them: a viewer turns each node the
// short way, evenly, which is then just what the joint does.
std::vector<TimedPosture> key_frames(const std::vector<TimedPosture>& postures) {
  std::vector<TimedPosture> out{postures.front()};
  for (std::size_t i = 0; i + 1 < postures.size(); ++i) {
    const TimedPosture& a = postures[i];
    const TimedPosture& b = postures[i + 1];
    const Posture way = b.posture - a.posture;
    const int pieces = 1 + static_cast<int>(way.cwiseAbs().maxCoeff() / kMostTurn);
    for (int k = 1; k <= pieces; ++k) {
      const double share = static_cast<double>(k) / pieces;
      out.push_back({a.time + share * (b.time - a.time), a.posture + share * way});
    }
  }
  return out;
}

Pose in_parent(const Arm& arm, const std::vector<Pose>& links, std::size_t link) {
  const int parent = arm.links()[link].parent_index;
  return parent < 0 ? links[link] : links[static_cast<std::size_t>(parent)].inverse() * links[link];
}

// A node for each link, in the order of links, under that of its parent.
std::vector<int> add_arm(Builder& out, const Arm& arm, const Posture& posture) {
  const std::vector<Pose> poses = link_poses(arm, posture);
  std::vector<int> nodes;
  for (std::size_t l = 0; l < poses.size(); ++l) {
    const Link& link = arm.links()[l];
    const int parent =
        link.parent_index < 0 ? 0 : nodes[static_cast<std::size_t>(link.parent_index)];
    nodes.push_back(
        out.add_node(link_name(arm, static_cast<int>(l)), parent, in_parent(arm, poses, l)));
    out.add_parts(nodes.back(), link.parts);
  }
  return nodes;
}

// Places of one node over all frames.
class Track {
 public:
  void add(const Pose& local) {
    const Eigen::Vector3f place = local.position.cast<float>();
    Eigen::Vector4f turn = as_xyzw(local.rotation);
    if (turn.dot(before_) < 0.0F) turn = -turn;  // the short way
    before_ = turn;
    places_.insert(places_.end(), place.begin(), place.end());
    turns_.insert(turns_.end(), turn.begin(), turn.end());
  }
  void give(Builder& out, int node) const {
    out.animate(node, "translation", places_, TINYGLTF_TYPE_VEC3);
    out.animate(node, "rotation", turns_, TINYGLTF_TYPE_VEC4);
  }

 private:
  std::vector<float> places_;
  std::vector<float> turns_;
  Eigen::Vector4f before_ = Eigen::Vector4f::Zero();
};

void animate(Builder& out, const Arm& arm, const std::vector<int>& nodes,
             const std::vector<TimedPosture>& frames) {
  std::vector<Track> tracks(nodes.size());
  for (const TimedPosture& frame : frames) {
    const std::vector<Pose> poses = link_poses(arm, frame.posture);
    for (std::size_t l = 0; l < nodes.size(); ++l) tracks[l].add(in_parent(arm, poses, l));
  }
  for (std::size_t l = 0; l < nodes.size(); ++l) tracks[l].give(out, nodes[l]);
}

void animate(Builder& out, const Body& piece, int node, const PlaceOfPiece& places,
             const std::vector<TimedPosture>& frames) {
  Track track;
  for (const TimedPosture& frame : frames) track.add(places(piece, frame.time));
  track.give(out, node);
}

// Of the first tool; of arms that were made one, of the first of each.
void add_tool_paths(Builder& out, const Arm& arm, const std::vector<TimedPosture>& frames) {
  if (frames.size() < 2) return;
  std::vector<Posture> waypoints;
  for (const TimedPosture& frame : frames) waypoints.push_back(frame.posture);
  const int points = std::max<int>(200, static_cast<int>(waypoints.size()));
  for (const Tool& tool : first_tools(arm)) {
    const int node = out.add_node("path of " + tool.name, 0, Pose{});
    out.add_line(node, tool_path(arm, lines_through(waypoints), points, tool.name), kPathColour);
  }
}

}  // namespace

void write_gltf(const std::filesystem::path& path, const Cell& cell, const Arm& arm,
                const std::vector<TimedPosture>& postures, const PlaceOfPiece& places) {
  const std::string ending = path.extension().string();
  if (ending != ".glb" && ending != ".gltf")
    throw InputError(fmt::format("the ending '{}' is no glTF file's", ending),
                     "write a .glb (one file) or a .gltf (text)");
  if (postures.empty()) throw InputError("an animation needs at least one posture");
  for (std::size_t i = 0; i + 1 < postures.size(); ++i)
    if (!(postures[i].time < postures[i + 1].time))
      throw InputError("the times of an animation rise from posture to posture");
  Builder out;
  const std::vector<TimedPosture> frames = key_frames(postures);
  if (frames.size() > 1) out.set_times(frames);
  const auto add_body = [&](const Body& body) {
    const int node = out.add_node(body.name, 0, body.at);
    out.add_parts(node, body.parts);
    return node;
  };
  for (const Body& body : cell.fixtures()) add_body(body);
  for (const Body& body : cell.pieces()) {
    const int node = add_body(body);
    if (places && frames.size() > 1) animate(out, body, node, places, frames);
  }
  for (const Arm& other : cell.arms())
    if (other.name() != arm.name()) add_arm(out, other, other.home_or_zero());
  const std::vector<int> nodes = add_arm(out, arm, postures.front().posture);
  if (frames.size() > 1) animate(out, arm, nodes, frames);
  add_tool_paths(out, arm, frames);
  const bool binary = ending == ".glb";
  write_file_through(path, [&](const std::filesystem::path& file) {
    if (!tinygltf::TinyGLTF().WriteGltfSceneToFile(&out.model(), file.string(), true, true, !binary,
                                                   binary))
      throw InputError(fmt::format("'{}' cannot be written", path.string()));
  });
}

std::vector<TimedPosture> timed_postures(const Route& route) {
  std::vector<TimedPosture> out{{0.0, route.waypoints.front()}};
  for (std::size_t i = 1; i < route.waypoints.size(); ++i) {
    const double length = (route.waypoints[i] - route.waypoints[i - 1]).norm();
    if (length > 0.0) out.push_back({out.back().time + length, route.waypoints[i]});
  }
  return out;
}

std::vector<TimedPosture> timed_postures(const Motion& motion, double rate) {
  const int ticks = std::max(1, static_cast<int>(std::ceil(motion.duration() * rate)));
  std::vector<TimedPosture> out;
  JointState state;
  for (int i = 0; i <= ticks; ++i) {
    const double time = motion.duration() * i / ticks;
    motion.at(time, state);
    if (i == 0 || time > out.back().time) out.push_back({time, state.position});
  }
  return out;
}

}  // namespace er
