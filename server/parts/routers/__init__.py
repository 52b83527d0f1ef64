"""The API of parts, one router a subject."""

from . import (
    advice,
    bodies,
    build,
    commands,
    drawing_sheet,
    drawings,
    files,
    history,
    inspection,
    library,
    making,
    mass,
    references,
    reports,
    sheets,
    sketches,
    solids,
)

ROUTERS = [
    m.router
    for m in (
        library,
        commands,
        history,
        build,
        advice,
        files,
        sheets,
        sketches,
        drawings,
        drawing_sheet,
        inspection,
        making,
        mass,
        references,
        reports,
        solids,
        bodies,
    )
]
