"""Generates the materials of MaterialX documents in all of MaterialX's own languages, with colour management. A
program of its own, since a generator may end its process.

Called with a language and documents; writes one line of JSON for each material: the document, the material, and what is
wrong, or "" where its code was made.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import MaterialX as mx
from MaterialX import PyMaterialXGenGlsl as glsl
from MaterialX import PyMaterialXGenMdl as mdl
from MaterialX import PyMaterialXGenOsl as osl
from MaterialX import PyMaterialXGenShader as gen

LANGUAGES = {
    "glsl": glsl.GlslShaderGenerator, "essl": glsl.EsslShaderGenerator, "osl": osl.OslShaderGenerator,
    "mdl": mdl.MdlShaderGenerator,
}  # fmt: skip


def generator_of(language: str, library: mx.Document) -> gen.ShaderGenerator:
    generator = LANGUAGES[language].create()
    colours = gen.DefaultColorManagementSystem.create(generator.getTarget())
    colours.loadLibrary(library)
    generator.setColorManagementSystem(colours)
    return generator


def context_of(generator: gen.ShaderGenerator) -> gen.GenContext:
    found = gen.GenContext(generator)
    found.registerSourceCodeSearchPath(mx.getDefaultDataSearchPath())
    found.getOptions().targetColorSpaceOverride = "lin_rec709"
    return found


def main(language: str, paths: list[Path]) -> None:
    library = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
    generator = generator_of(language, library)
    for path in paths:
        document = mx.createDocument()
        mx.readFromXmlFile(document, str(path))
        document.setDataLibrary(library)
        for material in document.getMaterialNodes():
            print(json.dumps([path.name, material.getName(), "its process ended"]), flush=True)
            try:
                shader = generator.generate(material.getName(), material, context_of(generator))
                wrong = "" if shader and shader.getSourceCode(gen.PIXEL_STAGE) else "no code"
            except Exception as error:
                wrong = f"{type(error).__name__} {error}"[:300]
            print(json.dumps([path.name, material.getName(), wrong]), flush=True)


if __name__ == "__main__":
    main(sys.argv[1], [Path(one) for one in sys.argv[2:]])
