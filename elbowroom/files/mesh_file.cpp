#include "elbowroom/files/mesh_file.hpp"

#include <fmt/format.h>

#include <assimp/scene.h>
#include <assimp/Importer.hpp>

#include "elbowroom/files/find_file.hpp"
#include "elbowroom/model/hull.hpp"

namespace er {
namespace {

void collect(const aiScene& scene, const aiNode& node, const aiMatrix4x4& outer,
             std::vector<Vector3>& points) {
  const aiMatrix4x4 here = outer * node.mTransformation;
  for (unsigned m = 0; m < node.mNumMeshes; ++m) {
    const aiMesh& mesh = *scene.mMeshes[node.mMeshes[m]];
    for (unsigned v = 0; v < mesh.mNumVertices; ++v) {
      const aiVector3D p = here * mesh.mVertices[v];
      points.emplace_back(static_cast<double>(p.x), static_cast<double>(p.y),
                          static_cast<double>(p.z));
    }
  }
  for (unsigned c = 0; c < node.mNumChildren; ++c) collect(scene, *node.mChildren[c], here, points);
}

}  // namespace

std::vector<Vector3> read_mesh_points(const std::filesystem::path& path) {
  Assimp::Importer importer;
  const aiScene* scene = importer.ReadFile(path.string(), 0);
  const Place place{path.string(), 0, 0};
  if (scene == nullptr || scene->mRootNode == nullptr)
    throw InputError(fmt::format("this mesh cannot be read: {}", importer.GetErrorString()),
                     "readable are STL, OBJ, PLY, glTF and COLLADA", place);
  std::vector<Vector3> points;
  collect(*scene, *scene->mRootNode, aiMatrix4x4(), points);
  if (points.empty()) throw InputError("this mesh has no points", "", place);
  return points;
}

Hull read_hull(const std::string& name, const Vector3& scale, const Place& place) {
  const std::filesystem::path path = find_file(name, place.file, place);
  std::vector<Vector3> points = read_mesh_points(path);
  for (Vector3& point : points) point = point.cwiseProduct(scale);
  try {
    auto data = std::make_shared<HullData>(*hull_of(points).data);
    data->file = name;
    data->scale = scale;
    return {data};
  } catch (const InputError& error) {
    throw InputError(fmt::format("mesh '{}': {}", name, error.message()), error.advice(), place);
  }
}

}  // namespace er
