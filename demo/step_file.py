"""Writes an assembly of turned parts and blocks as a CAD exchange file of exact surfaces: STEP, ISO 10303-21 with
the entities of ISO 10303-42 and -214. In millimetres; each part in a frame of its own."""
import math


class StepFile:
    def __init__(self):
        self.lines = []
        self.points = {}
        self.directions = {}

    def add(self, text):
        self.lines.append(f"#{len(self.lines) + 1}={text};")
        return f"#{len(self.lines)}"

    def real(self, value):
        text = f"{value:.10g}"
        return text if "." in text or "e" in text else text + "."

    def point(self, xyz):
        if xyz not in self.points:
            self.points[xyz] = self.add(f"CARTESIAN_POINT('',({','.join(map(self.real, xyz))}))")
        return self.points[xyz]

    def direction(self, xyz):
        if xyz not in self.directions:
            self.directions[xyz] = self.add(f"DIRECTION('',({','.join(map(self.real, xyz))}))")
        return self.directions[xyz]

    def frame(self, origin=(0, 0, 0), z=(0, 0, 1), x=(1, 0, 0)):
        return self.add(f"AXIS2_PLACEMENT_3D('',{self.point(origin)},{self.direction(z)},{self.direction(x)})")

    def vertex(self, xyz):
        return self.add(f"VERTEX_POINT('',{self.point(xyz)})")

    def line_edge(self, a, b, start, end):
        length = math.dist(a, b)
        way = self.direction(tuple((q - p) / length for p, q in zip(a, b)))
        vector = self.add(f"VECTOR('',{way},1.)")
        line = self.add(f"LINE('',{self.point(a)},{vector})")
        return self.add(f"EDGE_CURVE('',{start},{end},{line},.T.)")

    def circle_edge(self, radius, height, vertex):
        circle = self.add(f"CIRCLE('',{self.frame((0, 0, height))},{self.real(radius)})")
        return self.add(f"EDGE_CURVE('',{vertex},{vertex},{circle},.T.)")

    def loop(self, edges):
        """Of (edge, whether it is passed from its start to its end)."""
        oriented = [self.add(f"ORIENTED_EDGE('',*,*,{edge},{'.T.' if ahead else '.F.'})") for edge, ahead in edges]
        return self.add(f"EDGE_LOOP('',({','.join(oriented)}))")

    def face(self, surface, loops, same_sense=True):
        """Of (edges of a loop); the outer one comes first."""
        sense = ".T." if same_sense else ".F."
        bounds = [self.add(f"{'FACE_OUTER_BOUND' if i == 0 else 'FACE_BOUND'}('',{self.loop(one)},{sense})")
                  for i, one in enumerate(loops)]
        return self.add(f"ADVANCED_FACE('',({','.join(bounds)}),{surface},{sense})")

    def turned_shell(self, outline):
        """About z; the outline is a closed ring of (radius, height), counter-clockwise, square to the axis or along it."""
        vertex = {p: self.vertex((p[0], 0, p[1])) for p in outline if p[0] > 0}
        circle = {p: self.circle_edge(*p, vertex[p]) for p in vertex}
        faces = []
        for a, b in zip(outline, outline[1:] + outline[:1]):
            (r, h), (s, k) = a, b
            if r == s > 0:
                low, high = (a, b) if h < k else (b, a)
                seam = self.line_edge((r, 0, low[1]), (r, 0, high[1]), vertex[low], vertex[high])
                surface = self.add(f"CYLINDRICAL_SURFACE('',{self.frame()},{self.real(r)})")
                edges = [(circle[low], True), (seam, True), (circle[high], False), (seam, False)]
                faces.append(self.face(surface, [edges], same_sense=h < k))
            elif h == k:
                up = s < r
                plane = self.add(f"PLANE('',{self.frame((0, 0, h), (0, 0, 1 if up else -1))})")
                outer, inner = (a, b) if r > s else (b, a)
                loops = [[(circle[outer], up)]] + ([[(circle[inner], not up)]] if inner[0] > 0 else [])
                faces.append(self.face(plane, loops))
            elif r != 0 or s != 0:
                raise ValueError(f"neither along the axis nor square to it: {a} to {b}")
        return self.add(f"CLOSED_SHELL('',({','.join(faces)}))")

    def block_shell(self, size):
        corner = [tuple(size[k] if i >> k & 1 else 0 for k in range(3)) for i in range(8)]
        vertex = [self.vertex(one) for one in corner]
        edge = {(a, a | 1 << k): self.line_edge(corner[a], corner[a | 1 << k], vertex[a], vertex[a | 1 << k])
                for a in range(8) for k in range(3) if not a >> k & 1}
        faces = []
        for ring, normal in [((0, 2, 3, 1), (0, 0, -1)), ((4, 5, 7, 6), (0, 0, 1)), ((0, 1, 5, 4), (0, -1, 0)),
                             ((2, 6, 7, 3), (0, 1, 0)), ((0, 4, 6, 2), (-1, 0, 0)), ((1, 3, 7, 5), (1, 0, 0))]:
            along = (1, 0, 0) if normal[0] == 0 else (0, 1, 0)
            plane = self.add(f"PLANE('',{self.frame(corner[ring[0]], normal, along)})")
            edges = [(edge[min(a, b), max(a, b)], a < b) for a, b in zip(ring, ring[1:] + ring[:1])]
            faces.append(self.face(plane, [edges]))
        return self.add(f"CLOSED_SHELL('',({','.join(faces)}))")

    def solid(self, shell, voids):
        if not voids:
            return self.add(f"MANIFOLD_SOLID_BREP('',{shell})")
        turned = [self.add(f"ORIENTED_CLOSED_SHELL('',*,{one},.F.)") for one in voids]
        return self.add(f"BREP_WITH_VOIDS('',{shell},({','.join(turned)}))")

    def style(self, solid, colour):
        rgb = self.add(f"COLOUR_RGB('',{','.join(map(self.real, colour))})")
        fill = self.add(f"FILL_AREA_STYLE_COLOUR('',{rgb})")
        for kind, wrap in [("FILL_AREA_STYLE", "'',({})"), ("SURFACE_STYLE_FILL_AREA", "{}"),
                           ("SURFACE_SIDE_STYLE", "'',({})"), ("SURFACE_STYLE_USAGE", ".BOTH.,{}"),
                           ("PRESENTATION_STYLE_ASSIGNMENT", "({})")]:
            fill = self.add(f"{kind}({wrap.format(fill)})")
        return self.add(f"STYLED_ITEM('',({fill}),{solid})")

    def product(self, name, context, representation):
        """Its definition."""
        product = self.add(f"PRODUCT('{name}','{name}','',({context}))")
        version = self.add(f"PRODUCT_DEFINITION_FORMATION('','',{product})")
        design = self.add(f"PRODUCT_DEFINITION_CONTEXT('part definition',{self.application},'design')")
        definition = self.add(f"PRODUCT_DEFINITION('design','',{version},{design})")
        shape = self.add(f"PRODUCT_DEFINITION_SHAPE('','',{definition})")
        self.add(f"SHAPE_DEFINITION_REPRESENTATION({shape},{representation})")
        return definition

    def assembly(self, name, parts):
        """Of Part: with name, outline or size, voids, placing as (origin, z, x), colour. Those of the same product come
        once and are placed as often as there are parts of it."""
        self.application = self.add("APPLICATION_CONTEXT('automotive design')")
        self.add("APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2000,"
                 f"{self.application})")
        context = self.add(f"PRODUCT_CONTEXT('',{self.application},'mechanical')")
        length = self.add("(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.))")
        angle = self.add("(NAMED_UNIT(*)PLANE_ANGLE_UNIT()SI_UNIT($,.RADIAN.))")
        solid_angle = self.add("(NAMED_UNIT(*)SI_UNIT($,.STERADIAN.)SOLID_ANGLE_UNIT())")
        accuracy = self.add(f"UNCERTAINTY_MEASURE_WITH_UNIT(LENGTH_MEASURE(1.E-05),{length},"
                            "'distance_accuracy_value','')")
        units = self.add("(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT"
                         f"(({accuracy}))GLOBAL_UNIT_ASSIGNED_CONTEXT(({length},{angle},{solid_angle}))"
                         "REPRESENTATION_CONTEXT('',''))")
        origin = self.frame()
        placed = [self.frame(*part.placing) for part in parts]
        whole = self.add(f"SHAPE_REPRESENTATION('',({','.join([origin] + placed)}),{units})")
        whole_product = self.product(name, context, whole)
        made, styles = {}, []
        for number, (part, at) in enumerate(zip(parts, placed), 1):
            if part.product not in made:
                shell = self.turned_shell(part.outline) if part.outline else self.block_shell(part.size)
                solid = self.solid(shell, [self.turned_shell(one) for one in part.voids])
                if part.colour:
                    styles.append(self.style(solid, part.colour))
                shape = self.add(f"ADVANCED_BREP_SHAPE_REPRESENTATION('',({origin},{solid}),{units})")
                made[part.product] = shape, self.product(part.product, context, shape)
            shape, product = made[part.product]
            use = self.add(f"NEXT_ASSEMBLY_USAGE_OCCURRENCE('{number}','{part.name}','',{whole_product},{product},$)")
            used = self.add(f"PRODUCT_DEFINITION_SHAPE('','',{use})")
            moved = self.add(f"ITEM_DEFINED_TRANSFORMATION('','',{origin},{at})")
            relation = self.add(f"(REPRESENTATION_RELATIONSHIP('','',{shape},{whole})"
                                f"REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION({moved})"
                                "SHAPE_REPRESENTATION_RELATIONSHIP())")
            self.add(f"CONTEXT_DEPENDENT_SHAPE_REPRESENTATION({relation},{used})")
        self.add(f"MECHANICAL_DESIGN_GEOMETRIC_PRESENTATION_REPRESENTATION('',({','.join(styles)}),{units})")

    def write(self, path, name):
        with open(path, "w") as out:
            out.write("ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION(('an arm, made up'),'2;1');\n"
                      f"FILE_NAME('{name}','2026-11-29T00:00:00',(''),(''),'','','');\n"
                      "FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n")
            out.write("\n".join(self.lines) + "\nENDSEC;\nEND-ISO-10303-21;\n")
