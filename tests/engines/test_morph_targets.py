"""Weights on a rig's own targets, read by readers of somebody else's."""

import csv
import io
import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pygltflib
import pytest
from pxr import Usd, UsdSkel, UsdValidation

from tinfork.core.errors import FormatError
from tinfork.core.speech.visemes import VISEMES


def test_morph_targets_are_animated_by_the_weights(make):
    weights = list(csv.reader(io.StringIO(make("weights-csv", character="Odalys").decode())))
    assert weights[0] == ["frame", "seconds", *VISEMES] and len(weights) == 49
    table = np.array([[float(v) for v in row[2:]] for row in weights[1:]])
    assert np.abs(table.sum(axis=1) - 1).max() < 0.001
    gltf = pygltflib.GLTF2.gltf_from_json(
        make("gltf", character="Odalys", targets="rest = Neutral, mid=Open, open=Open").decode()
    )
    names = gltf.meshes[0].extras["targetNames"]
    assert names[0] == "Neutral" and names.count("Open") == 1 and len(names) == 14
    blob = gltf.get_data_from_buffer_uri(gltf.buffers[0].uri)
    sampler = gltf.animations[0].samplers[0]
    view = gltf.bufferViews[gltf.accessors[sampler.output].bufferView]
    curve = np.frombuffer(blob[view.byteOffset : view.byteOffset + view.byteLength], "<f4").reshape(48, 14)
    assert np.abs(curve[:, 0] - table[:, 0]).max() < 1e-3
    both = table[:, VISEMES.index("mid")] + table[:, VISEMES.index("open")]
    assert np.abs(curve[:, names.index("Open")] - both).max() < 1e-3
    with pytest.raises(FormatError, match="The classes are"):
        make("gltf", targets="smile=Grin")


def test_blend_shapes_in_usd_are_animated_by_the_weights(make, tmp_path):
    weights = list(csv.reader(io.StringIO(make("weights-csv", character="Odalys").decode())))
    table = np.array([[float(v) for v in row[2:]] for row in weights[1:]])
    made = tmp_path / "made.usda"
    made.write_bytes(make("usd", character="Odalys", targets="rest = Größe 1, mid=Größe 2", first=1001))
    stage = Usd.Stage.Open(str(made))
    assert (stage.GetStartTimeCode(), stage.GetEndTimeCode(), stage.GetTimeCodesPerSecond()) == (1001, 1048, 24)
    root = UsdSkel.Root(stage.GetDefaultPrim())
    assert root.GetPrim().GetDisplayName() == "Odalys"
    cache = UsdSkel.Cache()
    cache.Populate(root, Usd.TraverseInstanceProxies())
    (binding,) = cache.ComputeSkelBindings(root, Usd.TraverseInstanceProxies())
    (face,) = binding.GetSkinningTargets()
    assert UsdSkel.BlendShapeQuery(UsdSkel.BindingAPI(face.GetPrim())).GetNumBlendShapes() == len(VISEMES)
    names = list(face.GetBlendShapeOrder())
    assert names == ["Größe 1" if v == "rest" else "Größe 2" if v == "mid" else v for v in VISEMES]
    moved = cache.GetSkelQuery(binding.GetSkeleton()).GetAnimQuery()
    curve = np.array([moved.ComputeBlendShapeWeights(Usd.TimeCode(1001 + frame)) for frame in range(48)])
    assert np.abs(curve - table).max() < 1e-3
    validators = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
    assert len(validators) > 10
    wrong = UsdValidation.ValidationContext(validators).Validate(stage)
    assert [error.GetErrorAsString() for error in wrong] == []


def test_the_validator_of_gltf_has_nothing_against_it(make, tmp_path):
    """Khronos's own, from the npm packages that `./run check` installs."""
    (tmp_path / "made.gltf").write_bytes(make("gltf", character="Odalys"))
    ask = """
        const { validateBytes } = require("gltf-validator");
        const bytes = require("fs").readFileSync(process.argv[1]);
        validateBytes(new Uint8Array(bytes)).then((report) => console.log(JSON.stringify(report)));
    """
    node = Path(sys.executable).parent / "node"
    command = [node, "-e", ask, str(tmp_path / "made.gltf")]
    said = subprocess.run(command, capture_output=True, text=True, check=True, cwd=Path(__file__).parents[2])
    report = json.loads(said.stdout)
    assert report["issues"]["messages"] == []
    assert report["info"]["hasMorphTargets"] and report["info"]["animationCount"] == 1
