"""The lesson's tools as screens, the small window and a remote show them."""

import json

from cartouche.core.straighten.chain import FrameLink
from cartouche.core.teach.actions import ACTIONS, Action, KeyTable, shown, table_of
from cartouche.core.teach.hold import ASKS_AFTER_S
from cartouche.core.teach.steps import after
from cartouche.live.clock import steady_s
from cartouche.live.setup import Setup
from cartouche.store import settings, sheets, steps, teaching
from cartouche.web.after_view import record_view
from cartouche.web.pages_seen import AUTO_SHEETS
from cartouche.web.state import AppState
from cartouche.web.step_view import missing_now
from cartouche.web.teach_schemas import ActionView, HeldView, SheetView, StepView, TimerView, ToolsView

KEYS = "keys"


def key_table(state: AppState) -> KeyTable:
    kept = settings.setting(state.database, KEYS)
    return table_of(json.loads(kept) if kept else {})


def keep_keys(state: AppState, table: KeyTable) -> None:
    settings.set_setting(state.database, KEYS, json.dumps({name: list(keys) for name, keys in table.own.items()}))


def tools_view(state: AppState, said: str = "") -> ToolsView:
    setup, lesson = state.running.setup, state.lesson()
    table = key_table(state)
    kept = teaching.kept(state.database, lesson.id) if lesson else teaching.FIRST
    known = steps.steps(state.database, lesson.id) if lesson else ()
    missing = missing_now(state) if known else lambda step: None
    coming = after(known, kept.step_id, 1)
    page_id = setup.page_id
    return ToolsView(
        actions=[_action(table, one) for one in ACTIONS],
        held=held_view(setup),
        auto_hold=setup.auto_hold,
        follow_pen=setup.follow_pen,
        auto_sheets=settings.setting(state.database, AUTO_SHEETS) == "on",
        timer=timer_view(setup),
        frame=state.chain(page_id).frame if page_id is not None else FrameLink(),
        page_id=page_id,
        sheets=_sheets(state, setup),
        recording=record_view(state),
        steps=[StepView(step=step, lacks=missing(step)) for step in known],
        at=kept.step_id if any(step.id == kept.step_id for step in known) else None,
        next=coming.id if coming else None,
        said=said,
    )


def _action(table: KeyTable, one: Action) -> ActionView:
    keys = table.keys_of(one.name)
    on_button = "1 … 9" if one.name == "plate" else shown(keys[0])
    return ActionView(name=one.name, keys=list(keys), shown=on_button, says=one.says, own=one.name in table.own)


def held_view(setup: Setup) -> HeldView | None:
    """The page's, if it is held."""
    held = setup.holds.get(setup.page_id or "")
    if held is None:
        return None
    for_s = max(0.0, steady_s() - held.since_s)
    asks = for_s > ASKS_AFTER_S and held.by != "sheet"
    return HeldView(device_id=setup.page_id or "", by=held.by, for_s=for_s, sheet_id=held.sheet_id or None, asks=asks)


def timer_view(setup: Setup) -> TimerView:
    timer, now_s = setup.timer, steady_s()
    return TimerView(
        way=timer.way, total_s=timer.total_s, counted_s=timer.counted_s(now_s), left_s=timer.left_s(now_s), runs=timer.runs,
        ended=timer.ended(now_s), shown=timer.shown == "corner", chime=timer.chime, reads=timer.reads(now_s),
    )  # fmt: skip


def _sheets(state: AppState, setup: Setup) -> list[SheetView]:
    lesson = state.lesson()
    kept = [(sheet, False) for sheet in sheets.sheets(state.database, lesson.id)] if lesson else []
    waiting = [(sheet, True) for sheet, _ in state.unwritten if lesson is not None and sheet.lesson_id == lesson.id]
    on = {held.sheet_id for held in setup.holds.values()}
    return [
        SheetView(
            id=sheet.id, name=sheet.name, made_at=sheet.made_at, width=sheet.width, height=sheet.height, by_itself=sheet.by_itself,
            waits=waits, shown=sheet.id in on,
        )
        for sheet, waits in (*kept, *waiting)
    ]  # fmt: skip
