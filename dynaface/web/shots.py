"""Shots: made, opened, evaluated, cut; layers, the reel, the sound."""

from fractions import Fraction

from flask import Response, request

from dynaface.services.pieces import Piece
from dynaface.services.shot.bake_layers import bake_layers, bake_take
from dynaface.services.shot.blink_profiles import loosen_blink, own_profiles
from dynaface.services.shot.bring_prop import bring_prop, find_prop_holds
from dynaface.services.shot.cut_shot import Cut, cut_shot
from dynaface.services.shot.edit_layer_keys import edit_layer_keys
from dynaface.services.shot.end_maker import end_maker
from dynaface.services.shot.find_role_snags import list_role_snags, mend_role
from dynaface.services.shot.freeze_clip import follow_take, freeze_clip
from dynaface.services.shot.grab_face import grab_face
from dynaface.services.shot.list_rig import list_rig
from dynaface.services.shot.make_shot import add_layer, add_to_reel, list_reel, list_shots, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.poses import list_poses, save_pose
from dynaface.services.shot.preview_role import RoleTrial, preview_role
from dynaface.services.shot.shot_sound import let_sound_go, shot_peaks, shot_wav
from dynaface.services.shot.snap_gaze import snap_gaze
from dynaface.services.shot.snapshot import ShotWish
from dynaface.web.answers import as_bundle, as_json
from dynaface.web.models_documents import (
    ClipDocument,
    LayerDocument,
    PoseDocument,
    PoseRows,
    ProfilesDocument,
    ShotDocument,
    TakeDocument,
)
from dynaface.web.models_shot import (
    AtVersion,
    BakeAsked,
    ClipRows,
    CutAsked,
    EvaluateRole,
    GrabAsked,
    Grabbed,
    Hold,
    LooseBlink,
    NewClip,
    NewLayer,
    NewPose,
    NewShot,
    OfRole,
    OpenedShotOut,
    PropBrought,
    RigOut,
    RoleMends,
    ShotRows,
    SnapAsked,
    SnappedOut,
)
from dynaface.web.models_tidy import KeyEdit, LayerKeysEdited, SnagList
from dynaface.web.spec import checked, routes, work


@routes.get("/productions/<production>/shots")
@checked(gives=ShotRows)
def shots(production: str) -> Response:
    """All shots of a production."""
    return as_json(list_shots(work(), production))


@routes.post("/productions/<production>/shots")
@checked(takes=NewShot, gives=ShotDocument)
def new_shot(production: str) -> Response:
    """A shot of takes one after the other."""
    given: NewShot = request.context.json  # type: ignore[attr-defined]
    return as_json(make_shot(work(), production, given.name, given.rate, given.takes))


@routes.get("/productions/<production>/reel")
@checked(gives=ClipRows)
def reel(production: str) -> Response:
    """All clips ever cut in a production."""
    return as_json(list_reel(work(), production))


@routes.post("/takes/<take>/clips")
@checked(takes=NewClip, gives=ClipDocument)
def new_clip(take: str) -> Response:
    """A stretch of a take as a clip of the reel."""
    given: NewClip = request.context.json  # type: ignore[attr-defined]
    return as_json(add_to_reel(work(), take, given.first, given.last, given.name))


@routes.post("/clips/<clip>/hold")
@checked(takes=Hold, gives=ClipDocument)
def hold_clip(clip: str) -> Response:
    """Holds a clip to what its take gives now, or lets it follow its take again."""
    given: Hold = request.context.json  # type: ignore[attr-defined]
    return as_json((freeze_clip if given.held else follow_take)(work(), clip, given.version))


@routes.get("/shots/<shot>")
@checked(gives=OpenedShotOut)
def look_at_shot(shot: str) -> Response:
    """A shot with its layers, clips, characters and cast sheets."""
    return as_json(open_shot(work(), shot))


@routes.post("/shots/<shot>/evaluate")
@checked(takes=EvaluateRole)
def evaluate_shot(shot: str) -> Response:
    """Curves, weights and motion of a role as a binary bundle, with what is being dragged in place of what is stored."""
    given: EvaluateRole = request.context.json  # type: ignore[attr-defined]
    layers = {layer: [c.model_dump() for c in changes] for layer, changes in given.layers.items()}
    wish = ShotWish([c.model_dump() for c in given.shot], layers, given.character, given.stepped, rig=given.rig)
    trial = RoleTrial(given.edit.layer, given.edit.edit) if given.edit else RoleTrial(mends=given.mends)
    pieces = [Piece(**p.model_dump()) for p in given.pieces]
    return as_bundle(*preview_role(work(), shot, given.role, pieces, wish, trial))


@routes.post("/shots/<shot>/cuts")
@checked(takes=CutAsked, gives=ShotDocument)
def cut(shot: str) -> Response:
    """Splits, joins, makes room, takes out, lets a sound go."""
    given: CutAsked = request.context.json  # type: ignore[attr-defined]
    if given.do == "let the sound go":
        return as_json(let_sound_go(work(), shot, given.version, given.role, given.placement))
    wanted = Cut(given.do, given.role, given.placement, Fraction(given.at), Fraction(given.seconds))
    return as_json(cut_shot(work(), shot, given.version, given.label, wanted))


@routes.post("/shots/<shot>/grab")
@checked(takes=GrabAsked, gives=Grabbed)
def grab(shot: str) -> Response:
    """Which channels bring a place of the face where it is dragged."""
    given: GrabAsked = request.context.json  # type: ignore[attr-defined]
    return as_json(grab_face(work(), shot, **given.model_dump()))


@routes.post("/shots/<shot>/layers")
@checked(takes=NewLayer, gives=LayerDocument)
def new_layer(shot: str) -> Response:
    """A layer on top of a role's others."""
    given: NewLayer = request.context.json  # type: ignore[attr-defined]
    return as_json(add_layer(work(), shot, given.role, given.name, given.does, given.regions, given.touchup))


@routes.post("/shots/<shot>/rig")
@checked(takes=OfRole, gives=RigOut)
def rig_of_role(shot: str) -> Response:
    """The targets and joints of a role's character, which touch-up layers act on."""
    return as_json(list_rig(work(), shot, request.context.json.role))  # type: ignore[attr-defined]


@routes.post("/shots/<shot>/snags")
@checked(takes=OfRole, gives=SnagList)
def snags_of_role(shot: str) -> Response:
    """Looks for what is wrong in a role's result, worst first, each with a proposed mend."""
    return as_json(list_role_snags(work(), shot, request.context.json.role))  # type: ignore[attr-defined]


@routes.post("/shots/<shot>/mends")
@checked(takes=RoleMends, gives=LayerDocument)
def mends_of_role(shot: str) -> Response:
    """Accepts mends as keys of the layer of mends."""
    given: RoleMends = request.context.json  # type: ignore[attr-defined]
    return as_json(mend_role(work(), shot, given.role, given.keys))


@routes.post("/layers/<layer>/keys")
@checked(takes=KeyEdit, gives=LayerKeysEdited)
def keys_of_layer(layer: str) -> Response:
    """Edits keys of a layer and keeps the result."""
    given: KeyEdit = request.context.json  # type: ignore[attr-defined]
    document, report = edit_layer_keys(work(), layer, given.version, given.label, given.edit)
    return as_json({"document": document, "report": report})


@routes.post("/layers/<layer>/makers/<maker>/keys")
@checked(takes=AtVersion, gives=LayerDocument)
def keys_of_maker(layer: str, maker: str) -> Response:
    """Keys in place of a maker."""
    return as_json(end_maker(work(), layer, request.context.json.version, maker))  # type: ignore[attr-defined]


@routes.post("/layers/<layer>/makers/<maker>/loose")
@checked(takes=LooseBlink, gives=LayerDocument)
def loose_blink(layer: str, maker: str) -> Response:
    """Keys in place of one blink of a maker."""
    given: LooseBlink = request.context.json  # type: ignore[attr-defined]
    return as_json(loosen_blink(work(), layer, given.version, maker, given.frame))


@routes.post("/productions/<production>/profiles")
@checked(gives=ProfilesDocument)
def profiles(production: str) -> Response:
    """The production's own copies of the blink profiles."""
    return as_json(own_profiles(work(), production))


@routes.post("/shots/<shot>/bakes")
@checked(takes=BakeAsked, gives=LayerDocument)
def bake(shot: str) -> Response:
    """What the layers of a role make, as keys of one layer."""
    given: BakeAsked = request.context.json  # type: ignore[attr-defined]
    within = (given.within[0], given.within[1]) if given.within else None
    return as_json(bake_layers(work(), shot, given.role, within, given.tolerance))


@routes.post("/shots/<shot>/takes")
@checked(takes=OfRole, gives=TakeDocument)
def take_of_role(shot: str) -> Response:
    """What a role does as a take of its own."""
    return as_json(bake_take(work(), shot, request.context.json.role))  # type: ignore[attr-defined]


@routes.get("/productions/<production>/poses")
@checked(gives=PoseRows)
def poses(production: str) -> Response:
    """All poses of a production."""
    return as_json(list_poses(work(), production))


@routes.post("/shots/<shot>/poses")
@checked(takes=NewPose, gives=PoseDocument)
def new_pose(shot: str) -> Response:
    """What a role does at a frame as a pose of the production."""
    given: NewPose = request.context.json  # type: ignore[attr-defined]
    return as_json(save_pose(work(), shot, **given.model_dump()))


@routes.post("/layers/<layer>/makers/<maker>/snap")
@checked(takes=SnapAsked, gives=SnappedOut)
def snap_looks(layer: str, maker: str) -> Response:
    """The looks of the capture as looks of a gaze maker."""
    given: SnapAsked = request.context.json  # type: ignore[attr-defined]
    return as_json(snap_gaze(work(), layer, given.version, maker, given.within))


@routes.post("/shots/<shot>/props")
@checked(takes=PropBrought, gives=ShotDocument)
def new_prop(shot: str) -> Response:
    """An uploaded glTF as a prop of a shot."""
    given: PropBrought = request.context.json  # type: ignore[attr-defined]
    return as_json(bring_prop(work(), shot, given.version, given.model_dump(include={"media", "name"})))


@routes.post("/shots/<shot>/props/<prop>/holds")
@checked(takes=AtVersion, gives=ShotDocument)
def holds_of_prop(shot: str, prop: str) -> Response:
    """The hands that are on a prop, found."""
    return as_json(find_prop_holds(work(), shot, request.context.json.version, prop))  # type: ignore[attr-defined]


@routes.get("/shots/<shot>/sound")
@checked()
def sound_of_shot(shot: str) -> Response:
    """All sounds of a shot mixed to one WAV."""
    return Response(shot_wav(work(), shot), mimetype="audio/wav")


@routes.get("/shots/<shot>/peaks")
@checked()
def peaks_of_shot(shot: str) -> Response:
    """The wave of that mix as a binary bundle."""
    rate, peaks = shot_peaks(work(), shot)
    return as_bundle({"rate": rate}, {"peaks": peaks})
