"""A stage of USD: a small mesh with blend shapes, and a shot's weights as its animation (UsdSkel of OpenUSD)."""

import numpy as np
from pxr import Gf, Sdf, Tf, Usd, UsdGeom, UsdSkel, Vt

from tinfork.core.formats.morph_targets import MorphCurves
from tinfork.core.scene.scene import Scene

#: The mesh is a square that no shape moves: only the names and the curves matter.
_SQUARE = [(-0.5, -0.5, 0.0), (0.5, -0.5, 0.0), (0.5, 0.5, 0.0), (-0.5, 0.5, 0.0)]


def as_usd(scene: Scene, curves: MorphCurves) -> bytes:
    """The curves of one character as a stage in text; times are the shot's own frames."""
    stage = Usd.Stage.CreateInMemory()
    stage.SetTimeCodesPerSecond(float(scene.rate.value))
    stage.SetFramesPerSecond(float(scene.rate.value))
    stage.SetStartTimeCode(scene.first_frame)
    stage.SetEndTimeCode(scene.first_frame + scene.frames - 1)
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.y)
    UsdGeom.SetStageMetersPerUnit(stage, 1.0)
    root = UsdSkel.Root.Define(stage, Sdf.Path("/Character"))
    root.GetPrim().SetDisplayName(curves.name)
    stage.SetDefaultPrim(root.GetPrim())
    mesh = UsdGeom.Mesh.Define(stage, root.GetPath().AppendChild("Face"))
    mesh.CreatePointsAttr([Gf.Vec3f(*point) for point in _SQUARE])
    mesh.CreateFaceVertexCountsAttr([4])
    mesh.CreateFaceVertexIndicesAttr([0, 1, 2, 3])
    mesh.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
    mesh.CreateExtentAttr([Gf.Vec3f(*_SQUARE[0]), Gf.Vec3f(*_SQUARE[2])])
    # A valid binding needs a skeleton; this one has a single joint that does not move.
    skeleton = UsdSkel.Skeleton.Define(stage, root.GetPath().AppendChild("Skeleton"))
    skeleton.CreateJointsAttr(["root"])
    skeleton.CreateBindTransformsAttr([Gf.Matrix4d(1)])
    skeleton.CreateRestTransformsAttr([Gf.Matrix4d(1)])
    speech = UsdSkel.Animation.Define(stage, skeleton.GetPath().AppendChild("Speech"))
    speech.CreateBlendShapesAttr(list(curves.targets))
    weights = speech.CreateBlendShapeWeightsAttr()
    for frame, row in enumerate(curves.weights.astype(np.float32)):
        weights.Set(Vt.FloatArray.FromNumpy(row), scene.first_frame + frame)
    shapes = [
        _shape(stage, mesh.GetPath(), f"{Tf.MakeValidIdentifier(name)}_{number}", name)
        for number, name in enumerate(curves.targets)
    ]
    bound = UsdSkel.BindingAPI.Apply(mesh.GetPrim())
    bound.CreateBlendShapesAttr(list(curves.targets))
    bound.CreateBlendShapeTargetsRel().SetTargets(shapes)
    bound.CreateSkeletonRel().SetTargets([skeleton.GetPath()])
    UsdSkel.BindingAPI.Apply(skeleton.GetPrim()).CreateAnimationSourceRel().SetTargets([speech.GetPath()])
    return str(stage.GetRootLayer().ExportToString()).encode()


def _shape(stage: Usd.Stage, mesh: Sdf.Path, name: str, shown: str) -> Sdf.Path:
    shape = UsdSkel.BlendShape.Define(stage, mesh.AppendChild(name))
    shape.GetPrim().SetDisplayName(shown)
    shape.CreateOffsetsAttr([Gf.Vec3f(0)] * len(_SQUARE))
    return shape.GetPath()
