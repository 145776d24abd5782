"""Routers whose routes an application takes as they are: taken in as routers, each would be built once more for every application."""

from collections.abc import Iterable
from typing import Any

from fastapi import APIRouter
from starlette.routing import BaseRoute

from cartouche.web.schemas import Refusal

_REFUSALS: dict[int | str, dict[str, Any]] = {code: {"model": Refusal} for code in (400, 403, 404, 409, 413, 422, 507)}


def screen_router(tag: str, prefix: str = "") -> APIRouter:
    """Of one screen: any of its routes may refuse in one sentence."""
    return APIRouter(prefix=prefix, tags=[tag], responses=_REFUSALS)


def routes_of(routers: Iterable[APIRouter]) -> list[BaseRoute]:
    return [route for router in routers for route in router.routes]
