"""First-visit hints: one line for each screen, shown until somebody puts it away for good. The whole list stands here."""

from __future__ import annotations

from collections.abc import Mapping

HINTS: Mapping[str, str] = {
    "board": "Each drawing is a unit's last readings from hot (top) to cold; the mark under it says what stands out.",
    "here": "Type where you stand. A unit that the shop knows opens with one touch; any other is put down as you go.",
    "pocket": "Pocket turns a gauge pressure into a temperature and back, for any refrigerant, without a visit.",
    "arrive": "Touch what they complain about: what is looked at first follows from it.",
    "look": "Look before you measure. Touch a place on the drawing, or go down the list; 'not seen' is an honest answer.",
    "air": "Air comes before gauges: charge that is judged on bad air is judged wrong.",
    "read": "Type, Enter, next. The ladder draws each temperature as a rung; the distances between rungs are what is judged.",
    "judge": "A verdict waits until every mark is open. Causes are weighed one by one, with what speaks for and against.",
    "electrical": "Power proven first, meter tried before and after. What is measured here is kept by machine and leg.",
    "mend": "Write down what you do. What was read until then is kept as the before, and you read again after it.",
    "sealed": "Say what the system is opened for. The steps follow, and tick themselves off by what you record.",
    "recover": "Weigh what comes out. What is missing of the label's charge has leaked.",
    "leak": "Places stand likeliest first. Mark each as it is searched: passed is tight, not reached says why.",
    "hold": "Nitrogen in, gauge and pipe temperature, then wait: what the weather does to the gauge is taken out.",
    "vacuum": "Pull, shut the valve, watch: the shape of the rise tells a leak from moisture.",
    "weigh": "Begin and end a pour by the cylinder's scale. Trim is the small step by the gauges, with a wait after it.",
    "close": "What stands open is named with the way to end it. The sentence below is put together from your entries.",
}  # fmt: skip
