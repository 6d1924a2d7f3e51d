"""What several pages share."""

from gaitwire.web.routers.shared import history, pictures

ROUTERS = (
    pictures.router,
    history.router,
)
