#include "elbowroom/route/posture_tree.hpp"

#include <algorithm>

namespace er {

int PostureTree::add(const PostureRef& posture, int parent) {
  near_.add(posture);
  nodes_.push_back({posture, parent, parent < 0 ? roots_++ : root(parent)});
  return size() - 1;
}

std::vector<Posture> PostureTree::path_from_root(int node) const {
  std::vector<Posture> path;
  for (; node >= 0; node = at(node).parent) path.push_back(posture(node));
  std::reverse(path.begin(), path.end());
  return path;
}

}  // namespace er
