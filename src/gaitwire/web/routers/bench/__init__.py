"""The Bench."""

from gaitwire.web.routers.bench import controls, joints, page, rig_copying, sketching, soft_parts

ROUTERS = (
    page.router,
    joints.router,
    controls.router,
    rig_copying.router,
    soft_parts.router,
    sketching.router,
)
