// A tree of postures joined by proved lines.
#pragma once

#include <vector>

#include "elbowroom/route/nearest_postures.hpp"

namespace er {

class PostureTree {
 public:
  explicit PostureTree(int entries) : near_(entries) {}

  /// A root has no parent (-1) and is the first of what grows from it. Returns the node's number.
  int add(const PostureRef& posture, int parent);

  [[nodiscard]] int size() const { return static_cast<int>(nodes_.size()); }
  [[nodiscard]] const Posture& posture(int node) const { return at(node).posture; }
  /// The number of the root that a node grew from, counted among roots.
  [[nodiscard]] int root(int node) const { return at(node).root; }
  /// By the 2-norm, in single precision. The tree must not be empty.
  [[nodiscard]] int nearest(const PostureRef& to) const { return near_.nearest(to); }
  [[nodiscard]] std::vector<Posture> path_from_root(int node) const;

 private:
  struct Node {
    Posture posture;
    int parent;
    int root;
  };
  [[nodiscard]] const Node& at(int node) const { return nodes_[static_cast<std::size_t>(node)]; }

  int roots_ = 0;
  std::vector<Node> nodes_;
  NearestPostures near_;
};

}  // namespace er
