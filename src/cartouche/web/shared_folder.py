"""For those who were absent: one ZIP with recording, chapters, handout and a page that plays it with nothing from anywhere."""

import html
import zipfile
from datetime import date
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.record.chapters import Chapter, vtt
from cartouche.core.sheets.handout import Paper, PerPage
from cartouche.core.straighten.chain import Chain, ColourLink, LightLink
from cartouche.handout import HandoutSheet, Head, handout_pdf
from cartouche.live.page_keeper import evened
from cartouche.store import recordings, sheets
from cartouche.store.lessons import Lesson
from cartouche.web.recording import chapters_by_piece
from cartouche.web.sheet_keeping import path_of, with_ink
from cartouche.web.state import AppState

WHITE = Chain(light=LightLink(on=True), colour=ColourLink(on=True))  # paper is white where it is printed
_PAGE = """<!doctype html>
<html lang="en"><meta charset="utf-8"><title>{title}</title>
<style>
body{{font:16px/1.5 system-ui,sans-serif;margin:2em auto;max-width:60em;padding:0 1em;background:#f3eee3;color:#1d2433}}
video{{width:100%;background:#000;border-radius:10px}}
li{{margin:.2em 0}}
button{{font:inherit;border:0;background:none;color:#23459b;cursor:pointer;text-align:left}}
</style>
<h1>{title}</h1><p>{line}</p>
{videos}
{handout}
<script>
for (const button of document.querySelectorAll('button[data-video]'))
  button.onclick = () => {{
    const video = document.getElementById(button.dataset.video)
    video.currentTime = Number(button.dataset.at)
    video.play()
  }}
</script></html>
"""


def handout_of(state: AppState, lesson: Lesson, day: str, *, paper: Paper, per_page: PerPage, ink: bool) -> bytes:
    """All sheets of a lesson, in their order."""
    found = []
    for sheet in sheets.sheets(state.database, lesson.id):
        picture = with_ink(state, sheet) if ink else None
        if picture is None:
            picture = cv2.imread(str(path_of(state, sheet)))  # type: ignore[assignment]
        if picture is not None:
            found.append(HandoutSheet(sheet.name, evened(_even_sized(picture), WHITE), sheet.words or sheet.read or ""))
    return handout_pdf(Head(lesson.title, lesson.class_name, _written(day)), found, paper, per_page)


def _even_sized(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.ascontiguousarray(picture[: picture.shape[0] // 2 * 2, : picture.shape[1] // 2 * 2])


def _written(day: str) -> str:
    return date.fromisoformat(day).strftime("%d %B %Y").lstrip("0")


def write_share(state: AppState, lesson: Lesson, day: str, out: Path) -> None:
    """Raises OSError where the disk refuses."""
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as made:  # pictures and films are packed already
        videos = _films(state, lesson, made)
        handout = ""
        if sheets.sheets(state.database, lesson.id):
            made.writestr("handout.pdf", handout_of(state, lesson, day, paper="A4", per_page=1, ink=True))
            handout = '<h2>Sheets</h2><p><a href="handout.pdf">Handout (PDF)</a></p>'
        line = html.escape(f"{lesson.class_name} · {_written(day)}")
        page = _PAGE.format(title=html.escape(lesson.title), line=line, videos="\n".join(videos), handout=handout)
        made.writestr("open me.html", page)


def _films(state: AppState, lesson: Lesson, made: zipfile.ZipFile) -> list[str]:
    """Each piece with its chapters put in; how the page shows it."""
    videos: list[str] = []
    for one in recordings.recordings(state.database, lesson.id):
        for piece, chapters in chapters_by_piece(state, one):
            path = recordings.folder(state.database) / piece.file
            if path.is_file():
                name, number = f"{len(videos) + 1:02} {safe(one.name)}", len(videos) + 1
                made.write(path, f"{name}.mp4")
                made.writestr(f"{name}.vtt", vtt(chapters))
                videos.append(_video(number, one.name, f"{name}.mp4", chapters))
    return videos


def _video(number: int, title: str, file: str, chapters: list[Chapter]) -> str:
    listed = "".join(
        f'<li><button data-video="v{number}" data-at="{one.from_s:.2f}">{_clock(one.from_s)} {html.escape(one.title)}</button></li>'
        for one in chapters
    )
    source = html.escape(file)
    return f'<h2>{html.escape(title)}</h2><video id="v{number}" controls preload="metadata" src="{source}"></video><ul>{listed}</ul>'


def safe(name: str) -> str:
    """As a file's name on every system."""
    kept = "".join(letter if letter.isalnum() or letter in " -_." else "-" for letter in name).strip(" .")
    return kept[:80] or "recording"


def _clock(seconds: float) -> str:
    return f"{int(seconds) // 60}:{int(seconds) % 60:02}"
