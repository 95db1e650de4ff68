"""Routes for mixes: their changes and history, running orders, edits, layers, shapes."""

from fastapi import APIRouter

from fernbrook.api.mixes import edits, history, layers, mixes, orders, shapes

__all__ = ["router"]

router = APIRouter()
for module in (mixes, history, orders, edits, layers, shapes):
    router.include_router(module.router)
