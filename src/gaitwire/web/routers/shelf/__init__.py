"""The Shelf, and safekeeping."""

from gaitwire.web.routers.shelf import keeping, page

ROUTERS = (
    page.router,
    keeping.router,
)
