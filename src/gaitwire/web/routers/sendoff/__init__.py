"""The Send-off."""

from gaitwire.web.routers.sendoff import page

ROUTERS = (page.router,)
