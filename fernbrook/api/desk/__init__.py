"""Routes for what all views share: tables, settings, news, what is under way."""

from fastapi import APIRouter

from fernbrook.api.desk import news, settings, tables, under_way

__all__ = ["router"]

router = APIRouter()
for module in (tables, settings, news, under_way):
    router.include_router(module.router)
