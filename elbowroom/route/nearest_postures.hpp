// Postures kept side by side, to find those nearest to another quickly.
#pragma once

#include <vector>

#include "elbowroom/base/posture.hpp"

namespace er {

/// Distances are 2-norms in single precision; equally near ones count in the order of adding.
class NearestPostures {
 public:
  explicit NearestPostures(int entries) : entries_(entries) {}

  void add(const PostureRef& posture);
  /// Takes away those added last.
  void keep(int count);
  [[nodiscard]] int size() const { return size_; }
  /// The number of the nearest. There must be one.
  [[nodiscard]] int nearest(const PostureRef& to) const;
  /// The numbers of the nearest `count`, nearest first; of all when there are fewer.
  void nearest(const PostureRef& to, int count, std::vector<int>& out) const;

 private:
  int entries_;
  int size_ = 0;
  std::vector<float> lanes_;  // eight postures by eight: for each entry, eight values
};

}  // namespace er
