"""Heat over HTTP: two builds laid over each other."""

from uuid import UUID

from fastapi import APIRouter

from lynxbill.api.http.deps import SessionsDep
from lynxbill.api.wire.heat_schemas import BandOut, HeatCurveOut, HeatOut, HeatRunOut, HeatSideOut, WordedOverlayOut
from lynxbill.core.heat.sides import SideHeat
from lynxbill.core.record.ids import BuildId
from lynxbill.services.evidence.heat import DrawnCurve, DrawnSide, view_heat

router = APIRouter(tags=["heat"], prefix="/machines/{machine_id}")


@router.get("/heat")
def read_heat(
    machine_id: UUID, before: UUID, after: UUID, sessions: SessionsDep, workload: UUID | None = None
) -> HeatOut | None:
    """The heat of two builds by the minutes since their load began; null where no work was traced on both."""
    view = view_heat(sessions, machine_id, BuildId(str(before)), BuildId(str(after)), workload)
    if view is None:
        return None
    heats = (view.overlay.before, view.overlay.after)
    return HeatOut(
        workload=UUID(view.workload.id),
        workloads=[UUID(one.id) for one in view.workloads],
        above_room=view.overlay.above_room,
        same_s=view.overlay.same_s,
        sides=[_side(side, heat) for side, heat in zip(view.sides, heats, strict=True)],
        worded=WordedOverlayOut.model_validate(view.worded),
        window=view.window,
        shown=view.shown,
    )


def _side(side: DrawnSide, heat: SideHeat) -> HeatSideOut:
    return HeatSideOut(
        build=UUID(side.build),
        letter=side.letter,
        runs=[
            HeatRunOut(run=UUID(one.run), sitting=one.sitting, settled=one.settled, curves=_curves(one.curves))
            for one in side.runs
        ],
        means=_curves(side.means),
        equilibrium=None if heat.equilibrium is None else BandOut.model_validate(heat.equilibrium),
        held=list(heat.held),
    )


def _curves(curves: tuple[DrawnCurve, ...]) -> list[HeatCurveOut]:
    return [
        HeatCurveOut(
            role=curve.role,
            unit=curve.unit,
            at=list(curve.stretches.at),
            lows=list(curve.stretches.low),
            highs=list(curve.stretches.high),
        )
        for curve in curves
    ]
