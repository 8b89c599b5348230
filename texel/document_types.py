"""The documents of the studio as types, made from texel/schema by `python -m ground.document_types`.

Nothing is to be changed here by hand. Limits and patterns are in the schemas: see texel.schemas.check_document.
"""

from __future__ import annotations

from typing import Any, Literal, NotRequired, TypeAlias

from typing_extensions import TypedDict


class AllowedFormats(TypedDict):
    colour: list[str]
    colour_alpha: list[str]
    normal: list[str]
    mask: list[str]
    packed: list[str]
    height: list[str]
    light: list[str]


class CastMaster(TypedDict):
    name: str
    number: str


class CoordinateDocument(TypedDict):
    name: str
    uv_set: NotRequired[Literal[0, 1]]
    tiling: NotRequired[str | list[float]]
    offset: NotRequired[str | list[float]]
    rotation: NotRequired[float | str]


class DensityRule(TypedDict):
    texels: float
    factor: float


class DestinationDocument(TypedDict):
    format: Literal["fair-texel/destination"]
    version: Literal[1]
    name: str
    kind: Literal["folder", "zip", "bucket"]
    place: str
    target: str


class ErrorFigures(TypedDict):
    kind: Literal["colour", "normal", "mask"]
    psnr: NotRequired[float | None]
    ssim: NotRequired[float]
    delta_e: NotRequired[float]
    delta_e_99: NotRequired[float]
    degrees: NotRequired[float]
    degrees_99: NotRequired[float]
    degrees_max: NotRequired[float]
    step: NotRequired[float]
    step_99: NotRequired[float]
    step_max: NotRequired[float]
    alpha_step: NotRequired[float]
    alpha_step_99: NotRequired[float]
    alpha_step_max: NotRequired[float]
    coverage: NotRequired[float]
    every: NotRequired[int]


class ErrorLimits(TypedDict):
    colour: float
    normal: float
    mask: float
    coverage: float


class FunctionInput(TypedDict):
    name: str
    title: NotRequired[str]
    help: NotRequired[str]
    takes: Literal["number", "vector2", "vector3", "vector4", "map"]
    default: NotRequired[str]


class GapRule(TypedDict):
    texels: float
    side: int


class GroundShape(TypedDict):
    kind: Literal["made", "map"]
    low: float
    high: float
    map: NotRequired[str]
    seed: NotRequired[int]
    feature: NotRequired[float]
    rough: NotRequired[float]
    creeks: NotRequired[float]


class GroundStroke(TypedDict):
    layer: str
    points: list[list[float]]
    radius: float
    strength: float
    falloff: NotRequired[float]
    mirror: NotRequired[Literal["x", "y", "both"]]
    wrap: NotRequired[bool]


GroundTerm = TypedDict(
    "GroundTerm",
    {
        "measure": Literal["slope", "altitude", "noise", "water", "edge"],
        "from": NotRequired[float],
        "to": NotRequired[float],
        "fade": NotRequired[float],
        "size": NotRequired[float],
        "seed": NotRequired[int],
        "of": NotRequired[str],
    },
)


class GroundWeights(TypedDict):
    each: Literal[3, 4]
    bits: Literal[8, 16]


class LayerMask(TypedDict):
    source: NotRequired[Literal["none", "red", "green", "blue", "alpha", "map"]]
    amount: NotRequired[float]
    softness: NotRequired[float]
    contrast: NotRequired[float]
    edge: NotRequired[float]
    border: NotRequired[float]
    border_colour: NotRequired[list[float]]


class LedgerFile(TypedDict):
    digest: str
    bytes: int
    changed_ns: int


class LicenceTerms(TypedDict):
    licence: str
    use: Literal["free", "credit", "refused"]
    why: NotRequired[str]


class LicencesDocument(TypedDict):
    format: Literal["fair-texel/licences"]
    version: Literal[1]
    title: NotRequired[str]
    unknown: NotRequired[Literal["error", "warning", "note"]]
    terms: list[LicenceTerms]


class ManifestBeside(TypedDict):
    name: str
    file: str
    channel: Literal["r", "g", "b", "a"] | None
    map: str


class ManifestCast(TypedDict):
    name: str
    files: list[str]


class ManifestFar(TypedDict):
    color: str
    normal: str


class ManifestGroundMaps(TypedDict):
    color: str
    normal: str
    pack: str


class ManifestModelSlot(TypedDict):
    slot: str
    parts: list[str]
    wears: str


class ManifestSidecar(TypedDict):
    path: str
    set: str
    kind: Literal["sidecar"]
    cast: NotRequired[str]
    model: NotRequired[str]
    digest: str
    bytes: int
    plan: str


class ManifestTarget(TypedDict):
    name: str
    digest: str
    green: Literal["up", "down"]


class ManifestUse(TypedDict):
    slot: str
    path: str


class MasterOpacity(TypedDict):
    mode: NotRequired[Literal["opaque", "cut_out", "blend"]]
    cut_off: NotRequired[float]


class MessageDocument(TypedDict):
    key: str
    values: dict[str, str | float | list[str]]


class MirrorSpace(TypedDict):
    manifest: NotRequired[bool]
    tags: NotRequired[bool]
    roles: NotRequired[bool]
    unknown: Literal["srgb", "linear"]


class ModelsDocument(TypedDict):
    format: Literal["fair-texel/models"]
    version: Literal[1]
    title: str
    density: NotRequired[DensityRule]
    materials: NotRequired[int]
    gap: NotRequired[GapRule]


class NamePart(TypedDict):
    part: Literal["asset", "part", "variant", "suffix", "resolution", "tile", "version", "text"]
    optional: NotRequired[bool]
    words: NotRequired[list[str]]
    text: NotRequired[str]


class NamesDocument(TypedDict):
    format: Literal["fair-texel/names"]
    version: Literal[1]
    title: NotRequired[str]
    parts: list[NamePart]
    separator: NotRequired[Literal["_", "-", "."]]
    case: NotRequired[Literal["lower", "pascal", "camel", "upper", "keep"]]
    joint: NotRequired[Literal["", "_", "-"]]
    suffixes: dict[str, str]
    resolution: NotRequired[Literal["2k", "2K", "2048"]]
    version_digits: NotRequired[int]
    longest: NotRequired[int]
    folder: NotRequired[str | None]


class ParameterDocument(TypedDict):
    name: str
    kind: Literal["number", "colour", "vector", "switch", "choice"]
    title: NotRequired[str]
    group: NotRequired[str]
    order: NotRequired[int]
    help: NotRequired[str]
    size: NotRequired[Literal[2, 3, 4]]
    default: float | bool | str | list[float]
    low: NotRequired[float]
    high: NotRequired[float]
    soft_low: NotRequired[float]
    soft_high: NotRequired[float]
    step: NotRequired[float]
    unit: NotRequired[str]
    options: NotRequired[list[str]]


ParameterValue: TypeAlias = float | bool | str | list[float]


class PlaceDocument(TypedDict):
    x: int
    y: int
    width: int
    height: int
    channel: str | None


class ProjectFill(TypedDict):
    set: str
    role: NotRequired[str]


class ProjectSetReview(TypedDict):
    state: Literal["ready", "approved", "sent_back", "changed", "withdrawn"]
    of: str


class ProjectSlot(TypedDict):
    key: str
    name: str
    parts: list[str]


class ProjectSplit(TypedDict):
    slot: str
    part: str


class ProjectUndecided(TypedDict):
    file: str
    roles: list[str]


class ProjectWaiver(TypedDict):
    check: str
    role: NotRequired[str]
    map: NotRequired[str]
    reason: str
    until: NotRequired[str]
    by: NotRequired[str]


class ProjectWornRegion(TypedDict):
    set: str
    name: str
    left: float
    top: float
    width: float
    height: float
    metres: NotRequired[list[float]]


class RegionDocument(TypedDict):
    name: str
    left: float
    top: float
    width: float
    height: float
    metres: NotRequired[list[float]]


class RegionsDocument(TypedDict):
    format: Literal["fair-texel/regions"]
    version: Literal[1]
    regions: list[RegionDocument]


class ReportFile(TypedDict):
    path: str
    kind: Literal["map", "gltf", "material", "sidecar", "slot", "cast", "model", "ground"]
    bytes: int
    memory: int
    form: str
    sources: list[str]
    error: dict[str, Any] | None


class ReportFinding(TypedDict):
    check: str
    severity: Literal["error", "warning", "note"]
    message: str


class ReportTarget(TypedDict):
    name: str
    title: str


class ReportWaiver(TypedDict):
    check: str
    message: str
    reason: str
    by: str


RoleName: TypeAlias = Literal[
    "base_color",
    "normal",
    "roughness",
    "metallic",
    "occlusion",
    "height",
    "emissive",
    "opacity",
    "glossiness",
    "specular",
    "detail_mask",
]


class RowDocument(TypedDict):
    name: str
    expression: str


class ScanFile(TypedDict):
    map: str
    name: str
    bytes: int
    sha256: str


class ScanLicence(TypedDict):
    name: str
    credit: NotRequired[str]


class ScanListed(TypedDict):
    id: str
    title: str
    tags: NotRequired[list[str]]
    metres: float
    revision: int
    licence: ScanLicence
    pixels: list[int]


class ScanResolution(TypedDict):
    pixels: int
    files: list[ScanFile]


class ScanSurfaceDocument(TypedDict):
    id: str
    title: str
    tags: NotRequired[list[str]]
    metres: float
    revision: int
    note: NotRequired[str]
    licence: ScanLicence
    resolutions: list[ScanResolution]


class ScanSurfacesDocument(TypedDict):
    format: Literal["fair-texel/scan-surfaces"]
    version: Literal[1]
    title: str
    account: str
    next: NotRequired[int | None]
    surfaces: list[ScanListed]


class SetLicence(TypedDict):
    name: str
    credit: NotRequired[str]


class SheetLimits(TypedDict):
    reads: NotRequired[int]
    samplers: NotRequired[int]
    arithmetic: NotRequired[int]
    variants: NotRequired[int]


class SidecarDocument(TypedDict):
    name: str
    each: Literal["set", "material", "model", "delivery"]
    template: str


class SlotDocument(TypedDict):
    name: str
    title: NotRequired[str]
    help: NotRequired[str]
    role: NotRequired[RoleName]
    layout: NotRequired[str]
    colour_space: NotRequired[Literal["srgb", "linear"]]
    default: NotRequired[Literal["white", "black", "mid", "flat_normal"]]
    coordinates: NotRequired[str]
    wrap: NotRequired[Literal["repeat", "clamp", "mirror"]]
    filter: NotRequired[Literal["linear", "nearest"]]
    green: NotRequired[Literal["up", "down"]]


class SlotFill(TypedDict):
    set: NotRequired[str]
    role: NotRequired[str]
    file: NotRequired[str]


class StepDocument(TypedDict):
    step: str
    off: NotRequired[bool]


class TargetBudget(TypedDict):
    memory_mib: NotRequired[float]
    set_mib: NotRequired[float]
    density: NotRequired[float]


class TargetNames(TypedDict):
    pattern: str
    folder: NotRequired[str]
    case: NotRequired[Literal["keep", "lower", "snake", "pascal"]]


class VertexStrokeDocument(TypedDict):
    channel: Literal["red", "green", "blue", "alpha"]
    slot: NotRequired[str]
    points: list[list[float]]
    radius: float
    strength: float
    falloff: NotRequired[float]
    mirror: NotRequired[bool]


class CandidatePlace(TypedDict):
    role: str
    channel: NotRequired[str]
    set: str
    confidence: float
    why: str
    said: NotRequired[list[MessageDocument]]


class CastDocument(TypedDict):
    format: Literal["fair-texel/cast"]
    version: Literal[1]
    name: str
    master: NotRequired[CastMaster]
    changes: NotRequired[dict[str, ParameterValue]]
    slots: NotRequired[dict[str, SlotFill]]


class ChannelSource(TypedDict):
    role: NotRequired[RoleName]
    channel: NotRequired[Literal["r", "g", "b", "a"]]
    invert: NotRequired[bool]
    black: NotRequired[float]
    white: NotRequired[float]
    power: NotRequired[float]
    missing: NotRequired[float | None]


class FormatsDocument(TypedDict):
    format: Literal["fair-texel/formats"]
    version: Literal[1]
    title: NotRequired[str]
    allowed: AllowedFormats
    limits: ErrorLimits
    sheets: NotRequired[SheetLimits]


class FunctionDocument(TypedDict):
    format: Literal["fair-texel/function"]
    version: Literal[1]
    name: str
    title: NotRequired[str]
    help: NotRequired[str]
    number: NotRequired[str]
    inputs: list[FunctionInput]
    rows: NotRequired[list[RowDocument]]
    result: str
    functions: NotRequired[list[FunctionDocument]]


class GroundLayer(TypedDict):
    name: str
    wears: NotRequired[str]
    tile: float
    turn: NotRequired[float]
    repeat: NotRequired[Literal["plain", "two_scales", "hexagons"]]
    edge: NotRequired[float]
    rule: NotRequired[list[GroundTerm]]


class HabitLineDocument(TypedDict):
    suffix: str
    where: NotRequired[Literal["end", "start", "folder"]]
    role: Literal[
        "base_color",
        "normal",
        "roughness",
        "metallic",
        "occlusion",
        "height",
        "emissive",
        "opacity",
        "glossiness",
        "specular",
        "detail_mask",
        "pack",
        "none",
    ]
    channels: NotRequired[dict[str, RoleName]]
    folder: NotRequired[str]
    written: NotRequired[str]
    files: NotRequired[int]
    confidence: NotRequired[float]
    why: NotRequired[str]
    said: NotRequired[list[MessageDocument]]
    taught: NotRequired[bool]
    decided: NotRequired[bool]
    examples: NotRequired[list[str]]


class LayoutChannels(TypedDict):
    r: ChannelSource
    g: NotRequired[ChannelSource]
    b: NotRequired[ChannelSource]
    a: NotRequired[ChannelSource]


class LayoutDocument(TypedDict):
    format: Literal["fair-texel/layout"]
    version: Literal[1]
    name: str
    title: NotRequired[str]
    channels: LayoutChannels


class LedgerDocument(TypedDict):
    format: Literal["fair-texel/ledger"]
    version: Literal[1]
    written_ns: int
    files: dict[str, LedgerFile]
    kept: dict[str, str]


class ManifestChannel(TypedDict):
    role: RoleName | None
    invert: bool
    constant: float | None


class ManifestGroundLayer(TypedDict):
    layer: str
    wears: str
    tile: float
    turn: float
    repeat: Literal["plain", "two_scales", "hexagons"]
    edge: float
    weights: str
    channel: Literal["r", "g", "b", "a"]
    maps: ManifestGroundMaps


class ManifestMaterial(TypedDict):
    path: str
    set: str
    kind: Literal["material"]
    digest: str
    bytes: int
    plan: str
    uses: list[ManifestUse]


class ManifestSet(TypedDict):
    name: str
    files: list[str]
    licence: NotRequired[str]
    credit: NotRequired[str]
    regions: NotRequired[list[RegionDocument]]


class ManifestSource(TypedDict):
    role: RoleName
    file: str
    digest: str
    channel: Literal["r", "g", "b", "a"] | None
    layer: NotRequired[str]
    beside: NotRequired[list[ManifestBeside]]
    recipe: list[StepDocument]
    added: list[StepDocument]


class MirrorCompress(TypedDict):
    roles: NotRequired[list[RoleName]]
    above: NotRequired[int]
    format: str


class MirrorReads(TypedDict):
    suffixes: list[str]
    channels: dict[str, RoleName]
    space: NotRequired[Literal["srgb", "linear"]]


class OutputDocument(TypedDict):
    output: str
    channels: LayoutChannels
    colour_space: Literal["srgb", "linear"]
    container: Literal["png", "tga", "exr", "tiff", "dds", "ktx2"]
    bits: NotRequired[Literal[8, 16, 32]]
    format: NotRequired[str]
    quality: NotRequired[Literal["quick", "normal", "best"]]
    mips: NotRequired[bool]
    zstd: NotRequired[bool]
    dither: NotRequired[bool]
    largest: NotRequired[int]
    needs: NotRequired[list[str]]


class PaintingDocument(TypedDict):
    format: Literal["fair-texel/painting"]
    version: Literal[1]
    strokes: list[VertexStrokeDocument]


class ProjectCastDocument(TypedDict):
    format: Literal["fair-texel/project-cast"]
    version: Literal[1]
    name: str
    master: str
    parent: NotRequired[str]
    changes: NotRequired[dict[str, ParameterValue]]
    slots: NotRequired[dict[str, ProjectFill]]


class ProjectDocument(TypedDict):
    format: Literal["fair-texel/project"]
    version: Literal[1]
    name: str
    target: str
    approval: NotRequired[bool]
    keep_days: NotRequired[int | None]
    habit: NotRequired[list[HabitLineDocument]]


class ProjectModelTold(TypedDict):
    slots: NotRequired[list[ProjectSlot]]


class ProjectSetMap(TypedDict):
    role: RoleName
    file: str
    digest: str
    channel: NotRequired[Literal["r", "g", "b", "a"]]
    layer: NotRequired[str]
    recipe: NotRequired[list[StepDocument]]


class ProjectSetTold(TypedDict):
    review: NotRequired[ProjectSetReview]
    undecided: NotRequired[list[ProjectUndecided]]


class ProjectWears(TypedDict):
    kind: Literal["cast", "set"]
    name: str
    region: NotRequired[ProjectWornRegion]


class RecipeDocument(TypedDict):
    format: Literal["fair-texel/recipe"]
    version: Literal[1]
    role: RoleName
    recipe: list[StepDocument]


class RemedyDocument(TypedDict):
    label: str
    step: NotRequired[str]
    action: NotRequired[Literal["assign", "take_out", "derive"]]
    role: NotRequired[str]
    source: NotRequired[str]
    recipe: NotRequired[list[StepDocument]]


class ReportCast(TypedDict):
    name: str
    bytes: int
    files: list[ReportFile]


class ReportSet(TypedDict):
    name: str
    licence: str
    credit: str
    bytes: int
    memory: int
    files: list[ReportFile]
    findings: list[ReportFinding]
    waivers: list[ReportWaiver]


class SetMap(TypedDict):
    role: RoleName
    file: str
    channel: NotRequired[Literal["r", "g", "b", "a"] | None]
    layer: NotRequired[str | None]
    confidence: NotRequired[float]
    why: NotRequired[str]
    said: NotRequired[list[MessageDocument]]
    recipe: NotRequired[list[StepDocument]]


class SheetDocument(TypedDict):
    slots: NotRequired[list[SlotDocument]]
    parameters: NotRequired[list[ParameterDocument]]
    coordinates: NotRequired[list[CoordinateDocument]]
    rows: NotRequired[list[RowDocument]]
    inputs: dict[str, str]


class TargetDocument(TypedDict):
    format: Literal["fair-texel/target"]
    version: Literal[1]
    name: str
    title: NotRequired[str]
    green: Literal["up", "down"]
    names: TargetNames
    largest: NotRequired[int]
    budget: NotRequired[TargetBudget]
    material: NotRequired[Literal["gltf"] | None]
    casts: NotRequired[list[Literal["glb", "mtlx", "usdz"]]]
    models: NotRequired[list[Literal["glb", "usdz"]]]
    vertex_colours: NotRequired[Literal["layers", "color"]]
    refuses: NotRequired[Literal["error", "warning"]]
    mirror: NotRequired[str]
    sidecars: NotRequired[list[SidecarDocument]]
    outputs: list[OutputDocument]


class UndecidedFile(TypedDict):
    file: str
    why: str
    said: NotRequired[list[MessageDocument]]
    suffix: NotRequired[str]
    candidates: NotRequired[list[CandidatePlace]]


class FindingDocument(TypedDict):
    check: str
    severity: Literal["error", "warning", "note"]
    set: str
    role: str | None
    file: str | None
    measure: float | None
    threshold: float | None
    message: str
    said: NotRequired[MessageDocument | None]
    remedy: RemedyDocument | None
    place: PlaceDocument | None
    marks: str | None
    output: str | None


class GroundDocument(TypedDict):
    format: Literal["fair-texel/ground"]
    version: Literal[1]
    name: str
    metres: float
    side: Literal[128, 256, 512, 1024, 2048]
    shape: GroundShape
    weights: NotRequired[GroundWeights]
    far: NotRequired[Literal[256, 512, 1024, 2048, 4096]]
    layers: list[GroundLayer]
    strokes: NotRequired[list[GroundStroke]]


class HabitDocument(TypedDict):
    format: Literal["fair-texel/habit"]
    version: Literal[1]
    lines: list[HabitLineDocument]


class LayerDocument(TypedDict):
    name: str
    title: NotRequired[str]
    sheet: SheetDocument
    mask: NotRequired[LayerMask]


class ManifestCastFile(TypedDict):
    path: str
    set: Literal[""]
    kind: Literal["cast"]
    digest: str
    bytes: int
    plan: str
    cast: str
    width: int
    sheet: str
    values: str
    sources: list[ManifestSource]
    uses: list[ManifestUse]


class ManifestGround(TypedDict):
    name: str
    files: list[str]
    metres: float
    low: float
    high: float
    height: str
    material: str
    far: ManifestFar
    layers: list[ManifestGroundLayer]
    lost: list[str]


class ManifestGroundFile(TypedDict):
    path: str
    set: Literal[""]
    kind: Literal["ground"]
    digest: str
    bytes: int
    plan: str
    ground: str
    mesh: str
    width: int
    sources: list[ManifestSource]


class ManifestMap(TypedDict):
    path: str
    set: str
    kind: Literal["map", "gltf", "slot"]
    cast: NotRequired[str]
    digest: str
    bytes: int
    plan: str
    output: str
    container: Literal["png", "tga", "exr", "tiff", "dds", "ktx2"]
    format: NotRequired[str]
    quality: NotRequired[Literal["quick", "normal", "best"]]
    mips: NotRequired[bool]
    zstd: NotRequired[bool]
    dither: NotRequired[bool]
    memory: NotRequired[int]
    normals: NotRequired[ManifestSource]
    width: int
    height: int
    bits: Literal[8, 16, 32]
    colour_space: Literal["srgb", "linear"]
    green: Literal["up", "down"] | None
    green_from: Literal["recipe", "pixels", "name", "assumed"] | None
    channels: dict[str, ManifestChannel]
    sources: list[ManifestSource]


class ManifestModel(TypedDict):
    path: str
    set: Literal[""]
    kind: Literal["model"]
    digest: str
    bytes: int
    plan: str
    model: str
    width: int
    sheet: str
    values: str
    mesh: str
    sources: list[ManifestSource]
    slots: list[ManifestModelSlot]


class MasterDocument(TypedDict):
    format: Literal["fair-texel/master"]
    version: Literal[1]
    name: str
    title: NotRequired[str]
    help: NotRequired[str]
    functions: NotRequired[list[FunctionDocument]]
    slots: NotRequired[list[SlotDocument]]
    parameters: NotRequired[list[ParameterDocument]]
    coordinates: NotRequired[list[CoordinateDocument]]
    rows: NotRequired[list[RowDocument]]
    inputs: NotRequired[dict[str, str]]
    layers: NotRequired[list[LayerDocument]]
    opacity: NotRequired[MasterOpacity]


class MirrorDocument(TypedDict):
    format: Literal["fair-texel/mirror"]
    version: Literal[1]
    name: str
    title: NotRequired[str]
    green: Literal["up", "down"]
    reads: NotRequired[list[MirrorReads]]
    common_names: NotRequired[bool]
    space: MirrorSpace
    compress: NotRequired[list[MirrorCompress]]
    largest: NotRequired[int]


class ProjectGroundDocument(TypedDict):
    format: Literal["fair-texel/project-ground"]
    version: Literal[1]
    ground: GroundDocument
    wears: list[Literal["cast", "set"] | None]
    height: NotRequired[str]


class ProjectMasterDocument(TypedDict):
    format: Literal["fair-texel/project-master"]
    version: Literal[1]
    name: str
    number: str
    pinned: NotRequired[bool]
    sheet: MasterDocument


class ProjectModelDocument(TypedDict):
    format: Literal["fair-texel/project-model"]
    version: Literal[1]
    name: str
    main: str
    files: dict[str, str]
    metres: NotRequired[float]
    wears: NotRequired[dict[str, ProjectWears]]
    titles: NotRequired[dict[str, str]]
    splits: NotRequired[list[ProjectSplit]]
    strokes: NotRequired[list[VertexStrokeDocument]]
    told: NotRequired[ProjectModelTold]


class ProjectSetDocument(TypedDict):
    format: Literal["fair-texel/project-set"]
    version: Literal[1]
    name: str
    metres: NotRequired[float]
    licence: NotRequired[SetLicence]
    targets: NotRequired[list[str]]
    regions: NotRequired[list[RegionDocument]]
    maps: list[ProjectSetMap]
    waivers: NotRequired[list[ProjectWaiver]]
    told: NotRequired[ProjectSetTold]


class ReportDocument(TypedDict):
    format: Literal["fair-texel/report"]
    version: Literal[1]
    target: ReportTarget
    files: int
    bytes: int
    memory: int
    left_out: list[str]
    casts: NotRequired[list[ReportCast]]
    models: NotRequired[list[ReportCast]]
    grounds: NotRequired[list[ReportCast]]
    sets: list[ReportSet]


class SetDocument(TypedDict):
    name: str
    licence: NotRequired[SetLicence]
    regions: NotRequired[list[RegionDocument]]
    maps: list[SetMap]


class SetsDocument(TypedDict):
    format: NotRequired[Literal["fair-texel/sets"]]
    version: NotRequired[Literal[1]]
    sets: list[SetDocument]
    undecided: NotRequired[list[UndecidedFile]]


class ManifestDocument(TypedDict):
    format: Literal["fair-texel/manifest"]
    version: Literal[1]
    target: ManifestTarget
    sets: list[ManifestSet]
    casts: NotRequired[list[ManifestCast]]
    models: NotRequired[list[ManifestCast]]
    grounds: NotRequired[list[ManifestGround]]
    files: list[
        ManifestMap | ManifestMaterial | ManifestCastFile | ManifestModel | ManifestGroundFile | ManifestSidecar
    ]
