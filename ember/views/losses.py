"""Where electricity goes without heat for it, or more of it than is needed, in kWh and money."""

from dataclasses import dataclass

from ember.basis.codes import LossCode, SourceCode, ViewCode
from ember.basis.quantity import Estimate, UncertaintyComponent, rectangular
from ember.messages import Source, words_of
from ember.operation.within import Within, money
from ember.views.control import control_seen
from ember.views.defrosts import defrosts_seen
from ember.views.flow import NEEDED_LIMIT, SLOPE_ROUGH, flow_excess
from ember.views.hot_water import heaters_used
from ember.views.runs import at_rest
from ember.views.starts import starts_seen

say = words_of(__name__)


@dataclass(frozen=True)
class Loss:
    """One way in which electricity is lost.

    Attributes
    ----------
    code : LossCode
        which
    name, formula : str
        in words.
    electricity : Estimate
        [kWh]
    share : float | None
        of all metered electricity of the period.
    paid : Estimate | None
        at the average price of the period.
    view : ViewCode
        where it is looked into.
    """

    code: LossCode
    name: str
    formula: str
    electricity: Estimate
    share: float | None
    paid: Estimate | None
    view: ViewCode


def losses(within: Within, used: Estimate | None) -> list[Loss]:
    """The losses of a period that can be told, first what is surely largest. They are not to be
    added: a start after a defrost, or a heater's hot flow, stands in two of them. A flow hotter
    than needed is named where it surely lies above the analyst's limit, as in the findings.

    Parameters
    ----------
    used : Estimate | None
        all metered electricity of the period [kWh].
    """
    control = control_seen(within)
    standby, pump = at_rest(within)
    excess = flow_excess(within, control)
    flow = None
    flow_formula = ""
    above = within.analysis.described.thresholds.flow_above
    if excess is not None and excess.mean - 2 * rectangular(NEEDED_LIMIT) > above:
        each = excess.kwh / excess.mean if excess.mean else 0.0  # [kWh/K]
        method = Source(SourceCode.METHOD, detail=say("saves"))
        flow = Estimate(
            excess.kwh,
            "kWh",
            (
                UncertaintyComponent(method, excess.kwh * SLOPE_ROUGH),
                UncertaintyComponent(
                    Source(SourceCode.FLOW_NEEDED), rectangular(NEEDED_LIMIT) * each
                ),
            ),
        )
        by = say("by_table") if excess.by_table else say("by_practice")
        words = say(
            "flow_formula", words=excess.words, mean=excess.mean, per_kelvin=excess.per_kelvin
        )
        flow_formula = f"{words} ({by})"
    starts = starts_seen(within, drawn=False).loss
    defrosts = defrosts_seen(within, drawn=False).cost
    every = (
        (LossCode.START, say("start"), say("start_formula"), starts, ViewCode.STARTS),
        (LossCode.DEFROST, say("defrost"), say("defrost_formula"), defrosts, ViewCode.DEFROSTS),
        (LossCode.STANDBY, say("standby"), say("standby_formula"), standby, ViewCode.RUNS),
        (LossCode.PUMP, say("pump"), say("pump_formula"), pump, ViewCode.CONTROL),
        (LossCode.HEATERS, say("heaters"), say("heaters_formula"), heaters_used(within),
         ViewCode.HOT_WATER),
        (LossCode.FLOW, say("flow"), flow_formula, flow, ViewCode.CONTROL),
    )  # fmt: skip
    price, currency = within.price(), within.currency
    found = [
        Loss(
            code,
            name,
            formula,
            lost,
            lost.value / used.value if used is not None and used.value else None,
            money(lost, price, currency),
            view,
        )
        for code, name, formula, lost, view in every
        if lost is not None and lost.value > 0
    ]
    return sorted(found, key=lambda one: one.electricity.U - one.electricity.value)
