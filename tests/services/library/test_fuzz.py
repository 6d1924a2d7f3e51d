"""Two thousand damaged files of every kind that is taken, through what the pages call: each read whole or refused in words."""

import io
import json
import random
import zipfile
from collections import Counter
from importlib.resources import files

import numpy as np
import pytest
from PIL import Image

from gaitwire.core.errors import GaitWireError
from gaitwire.core.walk.card import GaitCard
from gaitwire.formats.gait_card import card_text
from gaitwire.formats.sound_files import write_flac, write_wav
from gaitwire.services.gait import gait_cards as cards
from gaitwire.services.gait import named_walks as walking
from gaitwire.services.library import art_in, bringing_in, phrases
from gaitwire.services.library.archives import find_puppet, pack_puppet
from gaitwire.services.library.phrases import export_phrase, list_phrases
from gaitwire.services.rig import drawings
from gaitwire.services.scene import guides as guide_work
from gaitwire.services.scene import sounds as sound_work
from gaitwire.services.scene.floor import make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.guides import add_guide_files
from gaitwire.services.scene.sounds import add_sounds

TRIES = 2000
SPELLS = [
    b"9" * 4301,
    b"\xc2\xb3",
    b"1e999",
    b"NaN",
    b"-1e308",
    b"\x00",
    b"\xed\xa0\x80",
    b'"\\ud800"',
    b"[" * 3000,
    b"9" * 30,
    b"url(#a)",
    b"rgb(1e999,0,0)",
    b"-0",
]
SVG = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 30"><defs><linearGradient id="a"><stop offset="0" stop-color="#fa0"/>
<stop offset="1" stop-color="rgb(1,2,3)" stop-opacity=".5"/></linearGradient><clipPath id="c"><circle cx="9" cy="9" r="8"/></clipPath></defs>
<g id="Arm" transform="rotate(12 3 4)"><path id="Hand" d="M1 2C3 4 5 6 7 8Q1 1 2 2A3 3 0 0 1 9 9Z" fill="url(#a)" stroke="#102030" stroke-width="2" stroke-dasharray="1 2"/></g>
<g id="Leg" clip-path="url(#c)"><rect id="Shin" x="1" y="2" width="9" height="20" rx="3" style="fill:#0a0;opacity:.5"/><use href="#Hand" x="3"/></g></svg>"""


def picture(kind="PNG", **more):
    image = Image.fromarray(np.random.default_rng(3).integers(0, 255, (12, 9, 4), np.uint8), "RGBA")
    out = io.BytesIO()
    (image if kind in ("PNG", "WEBP") else image.convert("RGB")).save(out, kind, **more)
    return out.getvalue()


def film():
    frames = [Image.new("RGB", (12, 9), (n * 40, 10, 90)) for n in range(4)]
    out = io.BytesIO()
    frames[0].save(out, "GIF", save_all=True, append_images=frames[1:], duration=80)
    return out.getvalue()


def zipped(contents, method=zipfile.ZIP_DEFLATED):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as archive:
        for name, data in contents.items():
            archive.writestr(name, data)
    return out.getvalue()


def openraster():
    stack = '<image w="12" h="9"><stack><layer name="Arm" src="data/1.png" x="1" y="2" opacity="0.5"/><stack name="Leg"><layer name="Shin" src="data/2.png"/></stack></stack></image>'
    return zipped(
        {"mimetype": "image/openraster", "stack.xml": stack, "data/1.png": picture(), "data/2.png": picture()}
    )


def bvh():
    joint = "{ OFFSET 0 9 0 CHANNELS 3 Zrotation Xrotation Yrotation %s }"
    tree = (
        "HIERARCHY ROOT Hips { OFFSET 0 0 0 CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation %s }"
    )
    leg = "JOINT LeftUpLeg " + joint % (
        "JOINT LeftLeg " + joint % ("JOINT LeftFoot " + joint % "End Site { OFFSET 0 0 5 }")
    )
    rows = "\n".join(" ".join(f"{(n * 7 + k) % 40}" for k in range(15)) for n in range(12))
    return f"{tree % leg}\nMOTION\nFrames: 12\nFrame Time: 0.0333\n{rows}\n".encode()


def markers():
    names = [f"{joint}_{axis}" for joint in ("hip", "knee", "ankle", "heel", "toe") for axis in "xy"]
    rows = [",".join([f"{n / 60:.3f}", *(f"{(n * k) % 17}.5" for k in range(10))]) for n in range(14)]
    return "\n".join([",".join(["time", *names]), *rows]).encode()


def seeds(workspace):
    """A sound file of each kind by name, with what the pages do with it."""
    scene_id = make_scene(workspace, "Fuzz")
    floor = Floor(workspace, scene_id)
    samples = np.random.default_rng(5).integers(-9000, 9000, (1, 2400), dtype=np.int16)
    puppet = pack_puppet(workspace, find_puppet(workspace, "Pip"))
    flat = {"arm.png": picture(), "leg.png": picture()}

    def drop(data, name):
        bringing_in.bring_in(workspace, data, name)

    def folder(data, name):
        art_in.import_pictures(workspace, {name: data, "other.png": picture()}, "folder")

    return {
        "a.svg": (SVG.encode(), drop), "pip.svg": (files("gaitwire.demo").joinpath("art", "pip.svg").read_bytes(), drop),
        "a.png": (picture(), drop), "a.webp": (picture("WEBP"), drop), "b.png": (picture(), folder),
        "a.zip": (zipped(flat), drop), "lzma.zip": (zipped(flat, zipfile.ZIP_LZMA), drop), "bzip.zip": (zipped(flat, zipfile.ZIP_BZIP2), drop),
        "a.ora": (openraster(), drop), "pip.puppet.zip": (puppet, drop), "puppet.json": (puppet, inside(workspace, "puppet.json")),
        "card.json": (card_text(GaitCard()).encode(), lambda data, _: cards.bring_card(workspace, data)),
        "phrase.json": (export_phrase(workspace, list_phrases(workspace)[0].ref)[0].encode(), lambda data, _: phrases.bring_phrase(workspace, data)),
        "walk.bvh": (bvh(), lambda data, name: cards.fit_walk(workspace, data, name)),
        "walk.csv": (markers(), lambda data, name: cards.fit_walk(workspace, data, name)),
        "a.wav": (write_wav(samples), lambda data, name: add_sounds(floor, {name: data})),
        "a.flac": (write_flac(samples), lambda data, name: add_sounds(floor, {name: data})),
        "a.gif": (film(), lambda data, name: add_guide_files(floor, {name: data})),
        "guide.png": (picture(), lambda data, name: add_guide_files(floor, {name: data})),
    }  # fmt: skip


def inside(workspace, name):
    """What bytes of one file within an archive are brought in as: damage to the file as a whole seldom gets that far."""

    def work(data, _):
        archive = zipfile.ZipFile(io.BytesIO(pack_puppet(workspace, find_puppet(workspace, "Pip"))))
        contents = {n: archive.read(n) for n in archive.namelist()} | {name: data}
        bringing_in.bring_in(workspace, zipped(contents), "pip.puppet.zip")

    return work


def spoiled(data, chance, others):
    """The bytes with one to four things wrong with them."""
    found = bytearray(data)
    for _ in range(chance.randint(1, 4)):
        at = chance.randrange(len(found) + 1)
        kind = chance.randrange(9)
        if kind == 0 and found:
            found[at % len(found)] ^= 1 << chance.randrange(8)
        elif kind == 1:
            del found[at : at + chance.randint(1, 40)]
        elif kind == 2:
            found[at:at] = chance.choice(SPELLS)
        elif kind == 3:
            del found[at:]
        elif kind == 4:
            other = chance.choice(others)
            found[at:at] = other[: chance.randint(1, 60)]
        elif kind == 5:
            found[at : at + 8] = bytes(chance.randrange(256) for _ in range(8))
        else:
            found = number_changed(found, chance)
    return bytes(found)


def number_changed(data, chance):
    """A digit of the text is made into something else."""
    digits = [i for i, b in enumerate(data) if 48 <= b <= 57]
    if digits:
        at = chance.choice(digits)
        data[at : at + 1] = chance.choice(SPELLS)
    return data


@pytest.fixture
def at_once(monkeypatch):
    """Readers run here and not in workers, so that whatever they raise is seen, and processes cost no time."""
    for module in (art_in, bringing_in, cards, drawings, guide_work, sound_work):
        monkeypatch.setattr(module, "run_limited", lambda work, *args, **_: work(*args))
    fit = walking.fit_card  # it takes seconds: what is read is tried, and fitted once only
    monkeypatch.setattr(
        walking, "fit_card", lambda walk, *more, kept=[]: kept[0] if kept else kept.append(fit(walk, *more)) or kept[0]
    )


def test_damaged_files_are_read_whole_or_refused_in_words(orchard, at_once):
    kinds = seeds(orchard)
    archive = zipfile.ZipFile(io.BytesIO(kinds["puppet.json"][0]))
    kinds["puppet.json"] = (archive.read("puppet.json"), kinds["puppet.json"][1])
    everything = [data for data, _ in kinds.values()]
    outcomes: Counter[str] = Counter()
    wrong: dict[str, str] = {}
    for n in range(TRIES):
        chance = random.Random(n)
        name = chance.choice(list(kinds))
        data, take = kinds[name]
        broken = spoiled(data, chance, everything)
        try:
            take(broken, name)
            outcomes["read"] += 1
        except GaitWireError as error:
            outcomes["refused"] += 1
            assert error.message and len(str(error)) < 400
        except Exception as error:  # noqa: BLE001 - that there is none is what is tried
            wrong[f"{name}: {type(error).__name__}: {str(error)[:60]}"] = f"seed {n}"
    assert not wrong
    assert min(outcomes.values()) > TRIES / 10, outcomes
    assert orchard.store.rows("PRAGMA integrity_check")[0][0] == "ok"


INFINITE = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path id="a" d="M0 0H9V9Z" fill="rgb(1e999,0,0)" stroke="hsl(9e400,1e999%,1%)"/></svg>'


def unknown_codec():
    """A sound in a form that no library here decodes: another number where the header says which it is."""
    wave = bytearray(write_wav(np.zeros((1, 2000), np.int16)))
    wave[20:22] = b"\x34\x12"
    return bytes(wave)


def test_what_was_once_a_bare_error_is_read_or_told(orchard, at_once):
    assert bringing_in.bring_in(orchard, INFINITE.encode(), "a.svg").name
    floor = Floor(orchard, make_scene(orchard, "Fuzz"))
    with pytest.raises(GaitWireError, match="coded in a way"):
        add_sounds(floor, {"a.wav": unknown_codec()})
    long = "9" * 4301
    for text, bring in (
        ('{"format": "gait card", "version": %s}', cards.bring_card),
        ('{"format": "phrase", "version": 1, "length": %s}', phrases.bring_phrase),
    ):
        with pytest.raises(GaitWireError, match="is no"):
            bring(orchard, (text % long).encode())
    whole = json.loads(export_phrase(orchard, list_phrases(orchard)[0].ref)[0])
    whole["rows"][0]["owner"]["owner_id"] = "\ud800"
    with pytest.raises(GaitWireError, match="does not fit"):
        phrases.bring_phrase(orchard, json.dumps(whole).encode())


def test_whatever_reads_a_file_in_a_worker_says_something_true(orchard, monkeypatch):
    """A mistake of a reader is no want of memory."""
    with pytest.raises(GaitWireError, match="could not be read") as told:
        monkeypatch.setattr(bringing_in, "read_any", json.loads)
        bringing_in.bring_in(orchard, b"no json", "a.svg")
    assert "large" not in str(told.value)
