#include "elbowroom/model/cloud.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

constexpr int kPointsTogether = 8;  // points under one box

}  // namespace

Cloud cloud_of(std::vector<Vector3> points, double radius, FileOrigin origin) {
  if (points.empty()) throw InputError("a cloud without points");
  if (!(radius > 0.0) || !std::isfinite(radius))
    throw InputError(fmt::format("the radius of a cloud's points must be above zero, found {} mm",
                                 radius * 1e3));
  auto data = std::make_shared<CloudData>();
  std::vector<AlignedBox> boxes;
  boxes.reserve(points.size());
  for (std::size_t i = 0; i < points.size(); ++i) {
    if (!points[i].allFinite())
      throw InputError(fmt::format("point {} of a cloud is not finite", i + 1));
    boxes.push_back({points[i].array() - radius, points[i].array() + radius});
  }
  data->radius = radius;
  data->origin = std::move(origin);
  data->tree = BoxTree(boxes, kPointsTogether);
  data->points.reserve(points.size());
  for (const int i : data->tree.order())
    data->points.push_back(points[static_cast<std::size_t>(i)]);
  data->tree.forget_order();
  data->ball.middle = data->tree.node(0).box.middle();
  for (const Vector3& point : data->points) {
    data->ball.radius = std::max(data->ball.radius, (point - data->ball.middle).norm() + radius);
    data->reach = std::max(data->reach, point.norm() + radius);
  }
  return {data};
}

}  // namespace er
