"""Draws MaterialX documents with MaterialX's own generated shaders, off screen. A program of its own, under Xvfb.

Called with a folder in which each ``*.mtlx`` is a sheet of ours, whose maps lie beside it, or has a graph "foreign";
writes ``*.npz``, an array (side, side, channels) of floats for each output, in the order of a picture: v down.
"""

from __future__ import annotations

import ctypes
import sys
from pathlib import Path

import MaterialX as mx
import numpy as np
from MaterialX import PyMaterialXGenGlsl as glsl
from MaterialX import PyMaterialXGenShader as gen
from MaterialX import PyMaterialXRender as render
from MaterialX import PyMaterialXRenderGlsl as render_glsl

sys.path.insert(0, str(Path(__file__).parents[2]))
from tests.places import PLACE

SIDE = 16
PLACED = ("geomcolor", "position", "normal", "tangent", "bitangent", "viewdirection", "time")


def prepare(path: Path, library: mx.Document) -> tuple[mx.Document, list[mx.Output]]:
    """The document with one graph that holds an instance of the sheet, and its outputs."""
    document = mx.createDocument()
    mx.readFromXmlFile(document, str(path))
    document.setDataLibrary(library)
    valid, why = document.validate()
    if not valid:
        raise SystemExit(f"{path.name}: {why}")
    # A picture has no vertices and lies nowhere.
    for graph in document.getNodeGraphs():
        for name, parts in PLACE.items():
            for node, sign in (("vertex_color", 1), (f"at_{name}", 1), (f"at_{name}_raw", -1)):
                raw = graph.getNode(node)
                if raw is None or (node == "vertex_color") != (name == "vertex") or raw.getCategory() not in PLACED:
                    continue
                raw.setCategory("constant")
                for one in raw.getInputs():
                    raw.removeInput(one.getName())
                raw.addInput("value", raw.getType()).setValueString(", ".join(str(sign * part) for part in parts))
    sheet = next((one for one in document.getNodeDefs() if one.hasAttribute("ft_name")), None)
    if sheet is None:
        return document, document.getNodeGraph("foreign").getOutputs()
    graph = document.addNodeGraph("NG_draw")
    alone = sheet.getOutputCount() == 1
    node = graph.addNode(sheet.getNodeString(), "drawn", sheet.getOutputs()[0].getType() if alone else "multioutput")
    for one in sheet.getInputs():
        if one.getType() == "filename":
            given = node.addInput(one.getName(), "filename")
            given.setValueString(str(path.parent / f"{path.stem}-{one.getName()}.png"))
    outputs = []
    for one in sheet.getOutputs():
        made = graph.addOutput(one.getName(), one.getType())
        made.setNodeName("drawn")
        if not alone:
            made.setOutputString(one.getName())
        outputs.append(made)
    return document, outputs


def without_smaller_levels() -> None:
    """All pictures of this process without mips (OpenGL 1.2, GL_TEXTURE_MAX_LEVEL)."""
    gl = ctypes.CDLL("libGL.so.1")
    for number in range(1, 64):
        if gl.glIsTexture(number):
            gl.glBindTexture(0x0DE1, number)
            gl.glTexParameteri(0x0DE1, 0x813D, 0)


class Renderer:
    def __init__(self):
        search = mx.getDefaultDataSearchPath()
        self.library = mx.createDocument()
        mx.loadLibraries(mx.getDefaultDataLibraryFolders(), search, self.library)
        self.renderer = render_glsl.GlslRenderer.create(SIDE, SIDE, render.BaseType.FLOAT)
        self.renderer.initialize()
        self.generator = glsl.GlslShaderGenerator.create()
        colours = gen.DefaultColorManagementSystem.create(self.generator.getTarget())
        colours.loadLibrary(self.library)
        self.generator.setColorManagementSystem(colours)

    def context(self, search: mx.FileSearchPath) -> gen.GenContext:
        """A fresh one for each document, as are its textures: graphs are remembered by name, pictures stay bound."""
        pictures = render_glsl.GLTextureHandler.create(render.StbImageLoader.create())
        pictures.setSearchPath(search)
        self.renderer.setImageHandler(pictures)
        made = gen.GenContext(self.generator)
        made.registerSourceCodeSearchPath(mx.getDefaultDataSearchPath())
        made.getOptions().hwSrgbEncodeOutput = False
        made.getOptions().fileTextureVerticalFlip = True
        made.getOptions().targetColorSpaceOverride = "lin_rec709"
        return made

    def draw(self, output: mx.Output, context: gen.GenContext) -> np.ndarray:
        shader = self.generator.generate(output.getName(), output, context)
        self.renderer.createProgram(shader)
        whole = mx.Vector2(0, 0), mx.Vector2(1, 1)
        # Pictures are loaded by drawing; then they keep their largest size alone, as what they are held to reads it.
        self.renderer.renderTextureSpace(*whole)
        without_smaller_levels()
        self.renderer.renderTextureSpace(*whole)
        picture = self.renderer.captureImage(None)
        count = picture.getChannelCount()
        raw = ctypes.string_at(picture.getResourceBuffer(), SIDE * SIDE * count * 4)
        return np.frombuffer(raw, np.float32).reshape(SIDE, SIDE, count)[::-1].copy()


def main(folder: Path) -> None:
    renderer = Renderer()
    search = mx.FileSearchPath(str(folder))
    for path in sorted(folder.glob("*.mtlx")):
        _document, outputs = prepare(path, renderer.library)
        context = renderer.context(search)
        np.savez(path.with_suffix(".npz"), **{one.getName(): renderer.draw(one, context) for one in outputs})


if __name__ == "__main__":
    main(Path(sys.argv[1]))
