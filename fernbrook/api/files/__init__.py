"""Routes for export and import: renders, publishing, bundles, backups, sticks."""

from fastapi import APIRouter

from fernbrook.api.files import backups, bundles, publishing, renders, sticks

__all__ = ["router"]

router = APIRouter()
for module in (renders, bundles, publishing, backups, sticks):
    router.include_router(module.router)
