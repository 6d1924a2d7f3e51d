"""The Stride desk."""

from gaitwire.web.routers.stride import live, page

ROUTERS = (
    page.router,
    live.router,
)
