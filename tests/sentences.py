"""What every sentence for a teacher keeps to: docs/glossary.md has the words."""

import re

LEFT_BEHIND = {
    "anew": "again",
    "mend": "fix",
    "mended": "fixed",
    "signs": "characters",
    "lying": "landscape",
    "vouch": "(say what to press)",
    "chain": "corrections",
    "TLS": "(the address that Cartouche printed)",
    "take out": "remove",
    "taken out": "removed",
    "take it out": "remove it",
    "holds this camera": "is using this camera",
    "wlan": "(the network's words)",
}
FIELD_PATH = re.compile(r"\b[a-z]+(?:_[a-z]+)*\.(?:[a-z_]+|\d+)\.|\b[a-z]+_[a-z_]+\b|\bbody\b|Value error|Input should|String should")
INTERNAL_ID = re.compile(r"\b[a-z]+-[0-9a-f]{6,}\b")


def faults(sentence: str) -> list[str]:
    """What is wrong with it; nothing for one that a teacher can read."""
    quoted = re.sub(r"“[^”]*”|\"[^\"]*\"", "“”", sentence)  # the teacher's own words
    plain = re.sub(r"https?://\S+|\S+\.(?:pdf|png|jpe?g|mp4|webm|json)\b|--\w+|\./run \w+|\{[^}]*\}", "", quoted)
    found = [f"“{word}”: rather {rather}" for word, rather in LEFT_BEHIND.items() if re.search(rf"\b{word}\b", plain)]
    if FIELD_PATH.search(plain):
        found.append("a field path or machine words")
    if INTERNAL_ID.search(plain):
        found.append("an internal id")
    if re.search(r"\.\.(?!\.)", plain.replace("...", "")) or re.search(r"[?!]\.", plain):
        found.append("two full stops")
    if re.search(r"\d %", plain):
        found.append("a space before %")
    return found
