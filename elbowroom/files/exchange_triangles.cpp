#include <fmt/format.h>

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRep_Tool.hxx>
#include <IGESCAFControl_Reader.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Poly_PolygonOnTriangulation.hxx>
#include <Poly_Triangulation.hxx>
#include <Quantity_ColorRGBA.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <Standard_Failure.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <set>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/exchange_file.hpp"

namespace er {
namespace {

constexpr double kDeviation = 0.05;  // mm, aimed at; what comes of it is measured
constexpr double kTurn = 0.35;       // rad from one triangle to the next, at most
constexpr double kBeyond = 1.2;      // times the deviation where it was measured
constexpr double kExact = 1e-6;      // mm; that much is rounding
constexpr double kSewn = 0.01;       // mm; faces nearer than this hang together
constexpr double kMillimetre = 1e-3;

Vector3 vector_of(const gp_Pnt& point) { return {point.X(), point.Y(), point.Z()}; }

double distance_to_line(const Vector3& point, const Vector3& a, const Vector3& b) {
  const Vector3 along = b - a;
  const double length = along.norm();
  return length > 0.0 ? (point - a).cross(along).norm() / length : (point - a).norm();
}

// The triangles of one face after the other, as one surface in millimetres.
class FaceTriangles {
 public:
  void add(const TopoDS_Face& face) {
    TopLoc_Location at;
    const Handle(Poly_Triangulation) triangles = BRep_Tool::Triangulation(face, at);
    if (triangles.IsNull()) {
      ++missing_;
      return;
    }
    const int first = static_cast<int>(out_.corners.size());
    for (int i = 1; i <= triangles->NbNodes(); ++i)
      out_.corners.push_back(vector_of(triangles->Node(i).Transformed(at.Transformation())));
    for (int i = 1; i <= triangles->NbTriangles(); ++i) {
      int a = 0;
      int b = 0;
      int c = 0;
      triangles->Triangle(i).Get(a, b, c);
      if (face.Orientation() == TopAbs_REVERSED) std::swap(b, c);
      out_.faces.push_back({first + a - 1, first + b - 1, first + c - 1});
    }
    measure_inside(face, *triangles, first);
    measure_edges(face, triangles, at, first);
  }
  [[nodiscard]] int missing() const { return missing_; }
  Surface take() {
    out_.off = off_ > kExact ? kBeyond * off_ : 0.0;
    return std::move(out_);
  }

 private:
  [[nodiscard]] Vector3 corner(int first, int node) const { return out_.corner(first + node - 1); }

  // Over a small triangle a smooth surface is furthest off near the middle of it or of its edges.
  void measure_inside(const TopoDS_Face& face, const Poly_Triangulation& triangles, int first) {
    if (!triangles.HasUVNodes()) return;
    const BRepAdaptor_Surface surface(face);
    if (surface.GetType() == GeomAbs_Plane) return;
    const auto at = [&](const gp_XY& uv) { return vector_of(surface.Value(uv.X(), uv.Y())); };
    for (int i = 1; i <= triangles.NbTriangles(); ++i) {
      std::array<int, 3> node{};
      triangles.Triangle(i).Get(node[0], node[1], node[2]);
      const Vector3 a = corner(first, node[0]);
      const Vector3 normal =
          (corner(first, node[1]) - a).cross(corner(first, node[2]) - a).normalized();
      if (!normal.allFinite()) continue;
      gp_XY sum(0.0, 0.0);
      for (std::size_t k = 0; k < 3; ++k) {
        const gp_XY here = triangles.UVNode(node[k]).XY();
        const gp_XY next = triangles.UVNode(node[(k + 1) % 3]).XY();
        sum += here;
        off_ = std::max(off_, std::abs(normal.dot(at(0.5 * (here + next)) - a)));
      }
      off_ = std::max(off_, std::abs(normal.dot(at(sum / 3.0) - a)));
    }
  }
  // The edges of a flat face may be bent, too.
  void measure_edges(const TopoDS_Face& face, const Handle(Poly_Triangulation) & triangles,
                     const TopLoc_Location& at, int first) {
    for (TopExp_Explorer edges(face, TopAbs_EDGE); edges.More(); edges.Next()) {
      const TopoDS_Edge& edge = TopoDS::Edge(edges.Current());
      if (BRep_Tool::Degenerated(edge)) continue;
      const Handle(Poly_PolygonOnTriangulation) line =
          BRep_Tool::PolygonOnTriangulation(edge, triangles, at);
      if (line.IsNull() || !line->HasParameters()) continue;
      const BRepAdaptor_Curve curve(edge);
      for (int i = 1; i < line->NbNodes(); ++i) {
        const double middle = 0.5 * (line->Parameter(i) + line->Parameter(i + 1));
        off_ = std::max(
            off_, distance_to_line(vector_of(curve.Value(middle)), corner(first, line->Node(i)),
                                   corner(first, line->Node(i + 1))));
      }
    }
  }

  Surface out_;
  double off_ = 0.0;
  int missing_ = 0;
};

Surface surface_of(const TopoDS_Shape& shape) {
  FaceTriangles out;
  int count = 0;
  for (TopExp_Explorer faces(shape, TopAbs_FACE); faces.More(); faces.Next(), ++count)
    out.add(TopoDS::Face(faces.Current()));
  if (out.missing() > 0)
    throw InputError("it has a face that cannot be laid out in triangles",
                     "mend the part in CAD, or export it as a mesh");
  Surface surface = out.take();
  for (Vector3& corner : surface.corners) corner *= kMillimetre;
  surface.off *= kMillimetre;
  return surface;
}

// What is in an assembly, part by part.
class PartCollector {
 public:
  explicit PartCollector(const Handle(TDocStd_Document) & document)
      : shapes_(XCAFDoc_DocumentTool::ShapeTool(document->Main())),
        colours_(XCAFDoc_DocumentTool::ColorTool(document->Main())) {}

  std::vector<Surface> run() {
    TDF_LabelSequence roots;
    shapes_->GetFreeShapes(roots);
    for (const TDF_Label& root : roots) visit(root, {}, {}, {});
    sew_loose_faces();
    return std::move(out_);
  }
  // Different ones, however often they are placed.
  [[nodiscard]] int solids() const { return static_cast<int>(solids_.size()); }

 private:
  static std::string name_of(const TDF_Label& label) {
    Handle(TDataStd_Name) name;
    if (!label.FindAttribute(TDataStd_Name::GetID(), name)) return {};
    const TCollection_AsciiString text(name->Get());  // as UTF-8
    return text.ToCString();
  }
  [[nodiscard]] std::optional<Colour> colour_of(const TDF_Label& label) const {
    Quantity_ColorRGBA colour;
    for (const XCAFDoc_ColorType kind : {XCAFDoc_ColorSurf, XCAFDoc_ColorGen}) {
      if (!colours_->GetColor(label, kind, colour)) continue;
      double r = 0.0;
      double g = 0.0;
      double b = 0.0;
      colour.GetRGB().Values(r, g, b, Quantity_TOC_sRGB);
      return Colour{r, g, b, static_cast<double>(colour.Alpha())};
    }
    return std::nullopt;
  }
  // That of the body itself, or else of one of its faces.
  [[nodiscard]] std::optional<Colour> colour_of(const TDF_Label& part,
                                                const TopoDS_Shape& body) const {
    TDF_Label label;
    if (shapes_->FindSubShape(part, body, label))
      if (const auto colour = colour_of(label)) return colour;
    if (const auto colour = colour_of(part)) return colour;
    for (TopExp_Explorer faces(body, TopAbs_FACE); faces.More(); faces.Next())
      if (shapes_->FindSubShape(part, faces.Current(), label))
        if (const auto colour = colour_of(label)) return colour;
    return std::nullopt;
  }

  void visit(const TDF_Label& label, const TopLoc_Location& at, const std::string& outer_name,
             const std::optional<Colour>& outer_colour) {
    TDF_Label part = label;
    TopLoc_Location here = at;
    if (XCAFDoc_ShapeTool::IsReference(label)) {
      here = at * XCAFDoc_ShapeTool::GetLocation(label);
      XCAFDoc_ShapeTool::GetReferredShape(label, part);
    }
    // An assembly may colour what it holds.
    const std::optional<Colour> colour = outer_colour ? outer_colour : colour_of(label);
    std::string name = name_of(part);
    if (name.empty()) name = outer_name;
    if (XCAFDoc_ShapeTool::IsAssembly(part)) {
      TDF_LabelSequence inner;
      XCAFDoc_ShapeTool::GetComponents(part, inner);
      for (const TDF_Label& one : inner) visit(one, here, name, colour);
      return;
    }
    add_bodies_of(part, here, name, colour);
  }

  void add_bodies_of(const TDF_Label& part, const TopLoc_Location& at, const std::string& name,
                     const std::optional<Colour>& colour) {
    const TopoDS_Shape shape = XCAFDoc_ShapeTool::GetShape(part);
    if (shape.IsNull()) return;
    BRepMesh_IncrementalMesh(shape, kDeviation, Standard_False, kTurn);
    const auto add = [&](const TopoDS_Shape& body) {
      Surface surface = surface_of(body.Moved(at));
      if (surface.faces.empty()) return;
      surface.name = name;
      surface.colour = colour ? colour : colour_of(part, body);
      out_.push_back(std::move(surface));
    };
    for (TopExp_Explorer bodies(shape, TopAbs_SOLID); bodies.More(); bodies.Next()) {
      solids_.insert(bodies.Current().TShape().get());
      add(bodies.Current());
    }
    for (TopExp_Explorer shells(shape, TopAbs_SHELL, TopAbs_SOLID); shells.More(); shells.Next())
      add(shells.Current());
    for (TopExp_Explorer faces(shape, TopAbs_FACE, TopAbs_SHELL); faces.More(); faces.Next())
      loose_.push_back(faces.Current().Moved(at));
  }
  // Some systems write faces that hang together only by lying beside each other, each on its own.
  void sew_loose_faces() {
    if (loose_.empty()) return;
    BRepBuilderAPI_Sewing sewing(kSewn);
    for (const TopoDS_Shape& face : loose_) sewing.Add(face);
    sewing.Perform();
    const TopoDS_Shape sewn = sewing.SewedShape();
    BRepMesh_IncrementalMesh(sewn, kDeviation, Standard_False, kTurn);
    out_.push_back(surface_of(sewn));
  }

  Handle(XCAFDoc_ShapeTool) shapes_;
  Handle(XCAFDoc_ColorTool) colours_;
  std::set<const Standard_Transient*> solids_;
  std::vector<TopoDS_Shape> loose_;
  std::vector<Surface> out_;
};

template <class Reader>
void transfer(const std::filesystem::path& path, Handle(TDocStd_Document) & document) {
  Reader reader;
  Interface_Static::SetCVal("xstep.cascade.unit", "MM");  // once a reader has made it
  reader.SetNameMode(Standard_True);
  reader.SetColorMode(Standard_True);
  if (reader.ReadFile(path.c_str()) != IFSelect_RetDone)
    throw InputError("it is no CAD exchange file, or cut short", "export it again");
  if (!reader.Transfer(document))
    throw InputError("it holds no shapes", "export the solids, not only drawings or product data");
}

}  // namespace

bool reads_exchange_files() { return true; }

std::vector<Surface> triangles_of_exchange_file(const std::filesystem::path& path, int solids) {
  Message::DefaultMessenger()->ChangePrinters().Clear();  // errors are told by us
  try {
    Handle(TDocStd_Document) document = new TDocStd_Document("BinXCAF");
    XCAFDoc_DocumentTool::Set(document->Main());
    if (is_iges_file(path))
      transfer<IGESCAFControl_Reader>(path, document);
    else
      transfer<STEPCAFControl_Reader>(path, document);
    PartCollector parts(document);
    std::vector<Surface> out = parts.run();
    if (parts.solids() < solids)
      throw InputError(
          fmt::format("{} of its {} solids cannot be read", solids - parts.solids(), solids),
          "export it again, or in another format: what is passed over would be missing");
    return out;
  } catch (const Standard_Failure& failure) {
    throw InputError(std::string("its reader gave up: ") + failure.GetMessageString());
  }
}

}  // namespace er
