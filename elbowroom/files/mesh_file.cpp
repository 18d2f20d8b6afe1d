#include "elbowroom/files/mesh_file.hpp"

#include <fmt/format.h>

#include <assimp/postprocess.h>
#include <assimp/scene.h>
#include <assimp/Importer.hpp>

#include "elbowroom/files/find_file.hpp"
#include "elbowroom/model/hull.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

void collect(const aiScene& scene, const aiNode& node, const aiMatrix4x4& outer, MeshSource& out) {
  const aiMatrix4x4 here = outer * node.mTransformation;
  for (unsigned m = 0; m < node.mNumMeshes; ++m) {
    const aiMesh& mesh = *scene.mMeshes[node.mMeshes[m]];
    const auto first = static_cast<int>(out.points.size());
    for (unsigned v = 0; v < mesh.mNumVertices; ++v) {
      const aiVector3D p = here * mesh.mVertices[v];
      out.points.emplace_back(static_cast<double>(p.x), static_cast<double>(p.y),
                              static_cast<double>(p.z));
    }
    for (unsigned f = 0; f < mesh.mNumFaces; ++f) {
      const aiFace& face = mesh.mFaces[f];
      if (face.mNumIndices != 3) continue;  // a line or a point
      std::array<int, 3> corners{};
      for (unsigned k = 0; k < 3; ++k) corners[k] = first + static_cast<int>(face.mIndices[k]);
      out.faces.push_back(corners);
    }
  }
  for (unsigned c = 0; c < node.mNumChildren; ++c) collect(scene, *node.mChildren[c], here, out);
}

// Makes a shape of a mesh file, and gives its faults a place.
template <class Make>
auto from_mesh_file(const std::string& name, const Vector3& scale, const Place& place, Make make) {
  MeshSource source = read_mesh_file(find_file(name, place.file, place));
  for (Vector3& point : source.points) point = point.cwiseProduct(scale);
  try {
    return make(source);
  } catch (const InputError& error) {
    throw InputError(fmt::format("mesh '{}': {}", name, error.message()), error.advice(), place);
  }
}

}  // namespace

MeshSource read_mesh_file(const std::filesystem::path& path) {
  Assimp::Importer importer;
  const aiScene* scene = importer.ReadFile(path.string(), aiProcess_Triangulate);
  const Place place{path.string(), 0, 0};
  if (scene == nullptr || scene->mRootNode == nullptr)
    throw InputError(fmt::format("this mesh cannot be read: {}", importer.GetErrorString()),
                     "readable are STL, OBJ, PLY, glTF and COLLADA", place);
  MeshSource source;
  collect(*scene, *scene->mRootNode, aiMatrix4x4(), source);
  if (source.points.empty()) throw InputError("this mesh has no points", "", place);
  return source;
}

Hull read_hull(const std::string& name, const Vector3& scale, const Place& place) {
  return from_mesh_file(name, scale, place, [&](MeshSource& source) {
    auto data = std::make_shared<HullData>(*hull_of(source.points).data);
    data->file = name;
    data->scale = scale;
    return Hull{data};
  });
}

Mesh read_mesh(const std::string& name, const Vector3& scale, bool is_skin, const Place& place) {
  return from_mesh_file(name, scale, place, [&](MeshSource& source) {
    if (source.faces.empty())
      throw InputError("it has points and no triangles", "take it as a cloud:, or as a hull:");
    return mesh_of(std::move(source.points), std::move(source.faces), is_skin, name, scale);
  });
}

}  // namespace er
