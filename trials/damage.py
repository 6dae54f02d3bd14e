"""Damage to files: what transport, other programs and ill will do to them."""

import io
import json
import random
import struct
import zipfile
from collections.abc import Callable

from trials.bodies import odd

ODD_WORDS = (b"nan", b"inf", b"-1e999", b"1e99999999", b"9" * 400, b"", b"\x00", b"-1", b"0", b"5e-324", b"1e18", b"00:00:00:99",
             b"\xff\xfe", "日本".encode(), b'"', b"#", b"2147483648", b"jawOpen", b"1/0")  # fmt: skip
ODD_NUMBERS = (0, 1, 0xFFFFFFFF, 0x7FFFFFFF, 0x80000000, 0xFFFF, 0x7FC00000, 0x7F800000)


def bytes_of(data: bytes, rng: random.Random) -> bytes:
    """Bits turned, stretches lost, doubled, filled or put in, numbers overwritten, the end cut off."""
    out = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 8, 64))):
        at, many = rng.randrange(len(out) or 1), rng.choice((1, 2, 4, 16, 200))
        way = rng.randrange(7)
        if way == 0 and out:
            out[at] ^= 1 << rng.randrange(8)
        elif way == 1:
            del out[at : at + many]
        elif way == 2:
            out[at:at] = out[at : at + many]
        elif way == 3:
            out[at : at + many] = bytes([rng.choice((0, 255, 32))]) * many
        elif way == 4:
            out[at:at] = rng.randbytes(many)
        elif way == 5:
            out[at : at + 4] = struct.pack(rng.choice("<>") + "I", rng.choice(ODD_NUMBERS))
        elif rng.random() < 0.3:
            del out[at:]
    return bytes(out)


def text_of(data: bytes, rng: random.Random) -> bytes:
    """Words exchanged for odd ones, lines lost, doubled, exchanged and made longer or shorter."""
    if rng.random() < 0.2:
        return bytes_of(data, rng)
    lines = data.split(b"\n")
    for _ in range(rng.choice((1, 1, 3, 20))):
        at = rng.choice((rng.randrange(len(lines)), min(rng.randrange(8), len(lines) - 1)))
        mark = next((m for m in (b",", b"\t", b";", b" ") if m in lines[at]), b",")
        words, way = lines[at].split(mark), rng.randrange(6)
        if way == 0:
            words[rng.randrange(len(words))] = rng.choice(ODD_WORDS)
        elif way == 1:
            del words[rng.randrange(len(words))]
        elif way == 2:
            words.insert(rng.randrange(len(words) + 1), rng.choice(ODD_WORDS))
        elif way == 3:
            rng.shuffle(words)
        elif way == 4:
            lines.insert(at, rng.choice(lines))
        elif len(lines) > 1:
            del lines[at]
            continue
        lines[at] = mark.join(words)
    return b"\n".join(lines)


def zip_of(data: bytes, rng: random.Random) -> bytes:
    """Damage of the archive, or a sound archive of damaged, lost, doubled and oddly named members."""
    if rng.random() < 0.4:
        return bytes_of(data, rng)
    made = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as source, zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as out:
        for name in source.namelist():
            member, way = source.read(name), rng.randrange(6)
            if way == 0:
                continue
            if way == 1:
                member = json_of(member, rng) if name.endswith("gltf") else bytes_of(member, rng)
            if way == 2:
                name = rng.choice(
                    ("../" + name, "/" + name, name.upper(), "a/" * 50 + name, name + "\x01", "-", "rate.txt")
                )
            if way == 3:
                member = rng.choice((b"", bytes(1 << 20), b"1e99999999", b"\xff\xfe"))
            out.writestr(name, member)
    return made.getvalue()


def json_of(data: bytes, rng: random.Random) -> bytes:
    """A JSON text with one to three odd places, or damaged as a text."""
    if rng.random() < 0.1:
        return bytes_of(data, rng)
    value = json.loads(data)
    for _ in range(rng.choice((1, 1, 2, 3))):
        value = odd(value, rng)
    return json.dumps(value).encode("utf-8", "surrogatepass")


def glb_of(data: bytes, rng: random.Random) -> bytes:
    """A glTF binary whose JSON or bytes are damaged, its lengths put right so that readers come that far."""
    if rng.random() < 0.2:
        return bytes_of(data, rng)
    length = struct.unpack_from("<I", data, 12)[0]
    head, rest = data[20 : 20 + length], data[20 + length :]
    if rng.random() < 0.8:
        head = json_of(head, rng)
        head += b" " * (-len(head) % 4)
    else:
        rest = rest[:8] + bytes_of(rest[8:], rng)
    return struct.pack("<4sIII", b"glTF", 2, 20 + len(head) + len(rest), len(head)) + data[16:20] + head + rest


DAMAGE: dict[str, Callable[[bytes, random.Random], bytes]] = {
    "text": text_of, "binary": bytes_of, "zip": zip_of, "json": json_of, "glb": glb_of,
}  # fmt: skip
