#include "elbowroom/model/hull.hpp"

#include <libqhull_r/libqhull_r.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cstdio>
#include <limits>
#include <unordered_map>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

// One run of the quickhull algorithm (Barber, Dobkin, Huhdanpaa 1996) and its memory.
class Quickhull {
 public:
  explicit Quickhull(std::vector<coordT>& coordinates) {
    quiet_ = fmemopen(report_.data(), report_.size(), "w");  // it insists on a stream to report to
    qh_zero(&state_, quiet_);
    char command[] = "qhull Qt Pp";  // Qt: triangles only; Pp: no reports
    failed_ = qh_new_qhull(&state_, 3, static_cast<int>(coordinates.size() / 3), coordinates.data(),
                           False, command, quiet_, quiet_) != 0;
  }
  Quickhull(const Quickhull&) = delete;
  Quickhull& operator=(const Quickhull&) = delete;
  ~Quickhull() {
    qh_freeqhull(&state_, !qh_ALL);
    int long_left = 0;
    int total = 0;
    qh_memfreeshort(&state_, &long_left, &total);
    if (quiet_ != nullptr) std::fclose(quiet_);
  }

  [[nodiscard]] bool failed() const { return failed_; }
  qhT* state() { return &state_; }

 private:
  qhT state_{};
  std::array<char, 256> report_{};
  std::FILE* quiet_ = nullptr;
  bool failed_ = true;
};

void add_bounds(HullData& hull) {
  Vector3 low = hull.corners.front();
  Vector3 high = low;
  for (const Vector3& corner : hull.corners) {
    low = low.cwiseMin(corner);
    high = high.cwiseMax(corner);
  }
  hull.middle = 0.5 * (low + high);
  hull.half = 0.5 * (high - low);
  for (const Vector3& corner : hull.corners)
    hull.radius = std::max(hull.radius, (corner - hull.middle).norm());
}

}  // namespace

Hull hull_of(std::span<const Vector3> points) {
  const auto no_volume = [] {
    return InputError("these points span no volume, so they have no hull",
                      "a hull needs at least four points that do not lie in one plane");
  };
  if (points.size() < 4) throw no_volume();
  std::vector<coordT> coordinates;
  coordinates.reserve(3 * points.size());
  for (const Vector3& point : points) {
    if (!point.allFinite()) throw InputError("a point of a mesh is not finite");
    for (Eigen::Index i = 0; i < 3; ++i) coordinates.push_back(point[i]);
  }
  Quickhull run(coordinates);
  if (run.failed()) throw no_volume();

  auto data = std::make_shared<HullData>();
  std::unordered_map<int, int> corner_of;  // input point -> corner
  std::unordered_map<const facetT*, std::size_t> plane_of;
  // No point lies further beyond the plane of a facet.
  const double outside = std::max(0.0, run.state()->max_outside) + run.state()->DISTround;
  const auto corner = [&](const vertexT* vertex) {
    const int point = qh_pointid(run.state(), vertex->point);
    const auto [entry, added] = corner_of.emplace(point, static_cast<int>(data->corners.size()));
    if (added) data->corners.push_back(points[static_cast<std::size_t>(point)]);
    return entry->second;
  };
  for (const facetT* facet = run.state()->facet_list; facet != nullptr && facet->next != nullptr;
       facet = facet->next) {
    std::array<int, 3> face{};
    std::size_t count = 0;
    for (const setelemT* e = &facet->vertices->e[0]; e->p != nullptr && count < 3; ++e)
      face[count++] = corner(static_cast<const vertexT*>(e->p));
    const auto at = [&](std::size_t i) -> const Vector3& {
      return data->corners[static_cast<std::size_t>(face[i])];
    };
    const Vector3 normal(facet->normal[0], facet->normal[1], facet->normal[2]);
    if ((at(1) - at(0)).cross(at(2) - at(0)).dot(normal) < 0.0) std::swap(face[1], face[2]);
    data->faces.push_back(face);
    // Faces of more than three corners come as several triangles, of which one owns the plane.
    const facetT* owner = facet->tricoplanar != 0U ? facet->f.triowner : facet;
    const auto [entry, is_new] = plane_of.emplace(owner, data->planes.size());
    if (is_new) data->planes.push_back({normal, outside - facet->offset});
    HullPlane& plane = data->planes[entry->second];
    for (std::size_t i = 0; i < 3; ++i)
      plane.offset = std::max(plane.offset, plane.normal.dot(at(i)));
  }
  if (data->corners.size() < 4) throw no_volume();
  add_bounds(*data);
  return {data};
}

}  // namespace er
