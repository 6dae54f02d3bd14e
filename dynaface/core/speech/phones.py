"""Phones of any language by the sound that they are nearest to: what lips, jaw and tongue do for it.

Names are ARPAbet without stress; espeak-ng writes phones in the International Phonetic Alphabet, with marks of length and stress.
"""

import unicodedata

VOWELS = frozenset(
    ("AA", "AE", "AH", "AO", "AW", "AY", "EH", "ER", "EY", "IH", "IY", "OW", "OY", "UH", "UW", "UE", "OE")
)
"""UE, OE: front rounded vowels, as in French "tu" and "feu"."""
CLOSED = frozenset(("M", "B", "P"))
LIP = frozenset(("F", "V"))

_TWO = {
    "aɪ": "AY", "aʊ": "AW", "eɪ": "EY", "oʊ": "OW", "əʊ": "OW", "ɔɪ": "OY", "ɔø": "OY", "ɔʏ": "OY", "tʃ": "CH", "dʒ": "JH", "ts": "S", "pf": "F",
    "iə": "IY", "eə": "EH", "ʊə": "UH", "ɪə": "IH", "aɪə": "AY", "aʊə": "AW", "ɑ̃": "AO", "ɔ̃": "OW", "ɛ̃": "AE", "œ̃": "OE",
}  # fmt: skip
_ONE = {
    "a": "AA", "ɑ": "AA", "ɐ": "AH", "æ": "AE", "ʌ": "AH", "ə": "AH", "ᵊ": "AH", "ɔ": "AO", "ɒ": "AO", "o": "OW", "e": "EY", "ɛ": "EH", "ɜ": "ER",
    "ɚ": "ER", "ɝ": "ER", "i": "IY", "ɪ": "IH", "ᵻ": "IH", "ɨ": "IH", "u": "UW", "ʊ": "UH", "y": "UE", "ʏ": "UE", "ø": "OE", "œ": "OE", "ɵ": "OE",
    "m": "M", "b": "B", "p": "P", "f": "F", "v": "V", "ʋ": "V", "β": "B", "w": "W", "ɥ": "UE", "θ": "TH", "ð": "DH", "t": "T", "d": "D", "n": "N",
    "l": "L", "ɫ": "L", "s": "S", "z": "Z", "ʃ": "SH", "ʒ": "ZH", "ç": "Y", "ɕ": "SH", "k": "K", "g": "G", "ɡ": "G", "ŋ": "NG", "x": "K", "χ": "K",
    "ɣ": "G", "h": "HH", "ɦ": "HH", "r": "R", "ɹ": "R", "ɾ": "D", "ʁ": "HH", "ʀ": "HH", "j": "Y", "ɲ": "N", "ʎ": "L", "ʔ": "SIL", "ʝ": "Y",
}  # fmt: skip


def phone_of_ipa(written: str) -> str | None:
    """The phone nearest to one that is written in IPA; None for what is no phone, such as a pause."""
    plain = "".join(c for c in written if c not in "ˈˌːˑ.ʲʰ̩̯͡ʷ")
    if plain in _TWO:
        return _TWO[plain]
    bare = "".join(c for c in unicodedata.normalize("NFD", plain) if not unicodedata.combining(c))
    for length in (3, 2):
        if bare[:length] in _TWO:
            return _TWO[bare[:length]]
    return next((_ONE[c] for c in bare if c in _ONE), None)
