"""Photos of a survey: taken, shown, put away."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.datastructures import UploadFile

from ohmack.formats.photo import PhotoError, read_photo
from ohmack.store.photos import TooManyPhotos
from ohmack.web.page import Problem
from ohmack.web.render import go, job_answer, wants_fragment, workshop_of
from ohmack.web.routes.edits import address_of, page_of, stage_of
from ohmack.web.routes.forms import Form, everything, text, whole

router = APIRouter()


def _back(request: Request, number: str, form: Form, message: str, problem: Problem | None = None) -> Response:
    shop = workshop_of(request)
    if problem is None and not wants_fragment(request):
        return go(address_of(number, stage_of(form), text(form, "show")[:300]))
    page = page_of(request, shop.designs.load(shop.context, number), form, problem=problem, message=message)
    return job_answer(
        request, page, 422 if problem else 200, address=address_of(number, stage_of(form), text(form, "show")[:300])
    )


@router.post("/jobs/{number}/photos", name="add_photo")
def add_photo(request: Request, number: str, form: Form) -> Response:
    """Take a photo beside the selected fact or thing."""
    path = text(form, "path")[:300]
    upload = form.get("photo")
    try:
        data = upload.file.read() if isinstance(upload, UploadFile) else b""
        photo = read_photo(data, (upload.filename or "") if isinstance(upload, UploadFile) else "")
        workshop_of(request).photos.add(workshop_of(request).context, number, path, photo)
    except (PhotoError, TooManyPhotos) as error:
        return _back(request, number, form, "", Problem(f"photo:{path}", str(error), everything(form)))
    return _back(request, number, form, f"{photo.name} kept")


@router.post("/jobs/{number}/photos/{photo_id:number}/away", name="photo_away")
def put_away(request: Request, number: str, photo_id: int, form: Form) -> Response:
    """Put a photo away, or bring it back."""
    workshop_of(request).photos.put_away(workshop_of(request).context, number, photo_id, not whole(form, "back"))
    return _back(request, number, form, "")


@router.get("/jobs/{number}/photos/{photo_id:number}/{size}", name="photo")
def pixels(request: Request, number: str, photo_id: int, size: str) -> Response:
    """A photo, small or whole."""
    data = workshop_of(request).photos.pixels(workshop_of(request).context, number, photo_id, thumbnail=size == "small")
    headers = {"Cache-Control": "private, no-cache", "Content-Disposition": "inline"}
    return Response(data, media_type="image/jpeg", headers=headers)
