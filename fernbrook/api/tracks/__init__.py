"""Routes for tracks: the library, what is known of each, its stems, what other programs say of it."""

from fastapi import APIRouter

from fernbrook.api.tracks import library, mark_files, markup, stems, straight, tracks

__all__ = ["router"]

router = APIRouter()
for module in (tracks, library, markup, mark_files, straight, stems):
    router.include_router(module.router)
