### What an owner reads, in English. Another language is a copy of this file with its own sentences.
### Short words, short sentences, no trade words: a test measures how easily it reads.

language = English
locale = en_US

## The page

report = Your service report
of-unit = { $tag }, { $serves }
visit-of = Visit of { $day }.
by-whom = Done by { $people }.
sec-asked = What you asked
sec-answer = In short
sec-safety = Please note first
sec-found = What we found
sec-done = What we did
sec-numbers = What it reads now
sec-open = What stays open
sec-next = When we come back
sec-advice = What we advise
sec-pictures = Pictures
sec-choice = Your choice
col-what = What we measured
col-before = Before
col-now = Now
col-should = It should be
col-tells = That is
none-asked = Nobody wrote down why you called.
none-found = We named nothing wrong.
none-done = We changed nothing on the unit.
none-numbers = We took no numbers after the work.
none-open = Nothing stays open.
in-our-words = Our note: { $words }
quoted = “{ $words }”
valid-until = This page is open to you until { $day }. Then it closes by itself.
as-of = This is how our notes stood on { $day }.
plus-minus = “±” tells how exact a number is. The true one lies inside it 95 times out of 100.
assumed = taken from a common rule, not from your unit
by-label = from the label or the maker
by-rule = from a common rule
tells-right = right
tells-low = too low
tells-high = too high
tells-unsure = too close to call
tells-none = no number to hold it against
not-again = not measured again
between = { $low } to { $high }
at-most = { $most } or less
at-least = { $least } or more
about = about { $aim }
draft-note = We are still at work. This report can change.
not-here = There is nothing to read at this address.
not-here-why = The link may be too old, or your service shop may have closed it. Please ask them for a new one.
too-many = Too many tries from here. Please wait a quarter of an hour.
call-shop = Questions? Please call { $shop }.
print-it = Print or save

## How it ended

outcome-fixed = The unit is fixed. We tested it, and it works as it should.
outcome-not-tested = The work is done. We did not repeat the test that shows your trouble.
outcome-improved = The unit runs better. The work is not done yet.
outcome-nothing_wrong = We found nothing wrong with the unit.
outcome-waiting = We wait for a part or for your answer.
outcome-not_fixed = The unit is not fixed yet.
outcome-open = We are still at work on this unit.
outcome-closed = The visit is over.

## Safety

safe-locked = The unit is locked off. Please do not turn it on.
safe-tagged = The unit is not safe to use. Please leave it off till we have been back.
safe-stop = Please leave the unit off for now. It could break if it runs.
safe-danger = If you smell gas or feel ill, go outside and call for help from there.
safe-food = Please do not sell or eat food that stood too warm. Ask your local food office if you are not sure.

## Why you called

asked-not_cold = It did not get cold enough.
asked-never_stops = It never stopped.
asked-intermittent = It worked one day and not the next.
asked-one_area = One area did not get enough.
asked-water = There was water.
asked-ice = There was ice.
asked-trips_hot_afternoons = It shut off on hot afternoons.
asked-no_heat = It gave no heat.
asked-noise = It made noise.
asked-warm_box = The cold room was too warm.
asked-does_not_run = It did not run.
asked-inspection = You asked us to check it.

## What the numbers point to

cause-none = We found no fault in how the unit runs.
cause-undercharge = The unit has too little of the fluid that moves the heat, the refrigerant.
cause-overcharge = The unit has too much of the fluid that moves the heat, the refrigerant.
cause-low_evaporator_airflow = Too little air flows past the cold coil.
cause-high_evaporator_load = More heat comes in than the unit is made for.
cause-low_condenser_airflow = Too little air flows past the hot coil. It cannot get rid of the heat.
cause-liquid_line_restriction = Something blocks the pipe that feeds the cold coil.
cause-metering_underfeeding = The valve that feeds the cold coil lets too little through.
cause-metering_overfeeding = The valve that feeds the cold coil lets too much through.
cause-non_condensables = There is air in the pipes. Only the right fluid should be in them.
cause-inefficient_compressor = The pump of the unit is worn. It does not pump well any more.
cause-wrong_refrigerant = The pipes hold the wrong fluid, or a mix of two.
was-undercharge = The unit had too little of the fluid that moves the heat, the refrigerant.
was-overcharge = The unit had too much of the fluid that moves the heat, the refrigerant.
was-low_evaporator_airflow = Too little air flowed past the cold coil.
was-high_evaporator_load = More heat came in than the unit is made for.
was-low_condenser_airflow = Too little air flowed past the hot coil. It could not get rid of the heat.
was-liquid_line_restriction = Something blocked the pipe that feeds the cold coil.
was-metering_underfeeding = The valve that feeds the cold coil let too little through.
was-metering_overfeeding = The valve that feeds the cold coil let too much through.
was-non_condensables = There was air in the pipes. Only the right fluid should be in them.
was-inefficient_compressor = The pump of the unit was worn. It did not pump well any more.
was-wrong_refrigerant = The pipes held the wrong fluid, or a mix of two.
how-sure = We are about { $share } sure of this.
how-sure-then = We were about { $share } sure of this.
leak-at = It leaks here: { $place }.
open-link-found = This part of the controls had cut the unit off: { $part }.

## What we saw

seen-filter_dirty = The filter was full of dirt.
seen-filter_missing = There was no filter.
seen-evaporator_dirty = The coil inside was dirty.
seen-condenser_dirty = The coil outside was dirty.
seen-condenser_fan_stopped = The outdoor fan did not turn.
seen-condenser_fan_reversed = The outdoor fan turned the wrong way.
seen-condenser_air_recirculating = The unit drew its own air back in.
seen-blower_stopped = The indoor fan did not turn.
seen-blower_belt_slipping = The belt of the indoor fan slipped.
seen-damper_closed = A flap in the air duct was shut.
seen-oil_stain = We saw a stain of oil. That is often where a leak is.
seen-drain_blocked = The drain was blocked, so water stood in the pan.
seen-ice_on_evaporator_even = The cold coil was covered with ice.
seen-ice_on_evaporator_patchy = There was ice on parts of the cold coil.
seen-compressor_not_pumping = The pump of the unit ran but did not pump.
seen-bearing_worn = A bearing was worn.
seen-plug_loose = A plug or a wire was off.
seen-tubes_rubbing = Two pipes rubbed on each other. In time that makes a leak.
seen-blade_unsafe = A fan blade was cracked or loose.
seen-heat_exchanger_cracked = The part between the flame and your air was cracked. Bad gas can come through.
seen-carbon_monoxide = We measured carbon monoxide. This gas can kill, and you cannot smell it.
seen-refrigerant_indoors = Fluid that can burn leaked indoors.
seen-safety_bridged = Someone had put a safety switch out of use.
seen-rotation_reversed = The power was hooked up so that motors turned the wrong way.
seen-water_at_electrics = There was water near live parts.
seen-burnt_parts = We saw burnt parts in the power box.
seen-ground_missing = The safety ground wire was missing.
end-mended = That is mended.
end-booked = We come back for it.
end-accepted = It stays as it is for now. The reason: { $why }
end-safe = The unit was made safe and left off.
end-open = That is still so.

## Where

place-service_cores = the small valves where we hook up our gauges
place-flares = a joint of the pipes
place-evaporator_bends = the bends of the cold coil
place-evaporator_face = the tubes of the cold coil
place-condenser_bends = the bends of the hot coil
place-rubbing = a place where pipes rub
place-metering = the valve that feeds the cold coil
place-drier = the filter in the pipe
place-suction_joints = a joint of the thick pipe
place-compressor_bolts = the pump of the unit
place-receiver = the tank of the unit
place-pressure_switches = the thin tube of a switch
place-line_set = the pipes between indoors and outdoors
place-other = { $words }

## What we did

did-filter_changed = We put in a new filter.
did-evaporator_cleaned = We cleaned the coil inside.
did-condenser_cleaned = We cleaned the coil outside.
did-belt_or_blower = We mended the belt or the indoor fan.
did-outdoor_fan = We mended the outdoor fan.
did-damper_opened = We opened the flap in the air duct.
did-drain_cleared = We cleared the drain.
did-thawed = We let the ice melt off the coil.
did-charge_adjusted = We set the amount of fluid in the unit.
did-metering_device = We set or changed the valve that feeds the cold coil.
did-drier_changed = We put a new filter in the pipe.
did-electrical_part = We changed a part in the power box.
did-setting_changed = We changed a setting.
did-other = We did one more thing.
did-cleaned-coil = We washed the coil and let it dry.
cured-tightened = We made this tight: { $place }.
cured-joint = We made this joint new: { $place }.
cured-new_part = We put in a new part here: { $place }.
cured-patch = We patched this for now: { $place }. A patch may not last.
cured-isolated = We shut this off: { $place }. It is not mended.
moved-recovered = We took { $amount } of refrigerant ({ $fluid }) out and kept it safe.
moved-removed = We took out { $amount } of refrigerant ({ $fluid }), for there was too much.
moved-weighed_in = We put in { $amount } of refrigerant ({ $fluid }), on a scale.
moved-trimmed = We put in { $amount } of refrigerant ({ $fluid }) while the unit ran.
moved-added = We added { $amount } of refrigerant ({ $fluid }).
moved-lost = { $amount } of refrigerant ({ $fluid }) got out of our hoses.
held-tight = We filled the pipes with dry gas to look for leaks. The pressure held.
held-leaking = We filled the pipes with dry gas to look for leaks. The pressure fell, so it still leaks.
held-too_soon = We filled the pipes with dry gas, but not long enough to be sure that they are tight.
held-gain = We filled the pipes with dry gas. The test could not tell if they are tight.
emptied = We drew all air and water out of the pipes.
switch-reset = We set this switch back: { $part }.
link-closed = This part of the controls works again: { $part }.
proved = We took the test that failed once more. It is right now.
proved-of = We took the test that failed once more: { $what }. It is right now.

## What we measure

gap-air_split = How much the air is cooled or warmed
gap-superheat = How warm the fluid leaves the cold coil
gap-subcooling = How cool the fluid leaves the hot coil
gap-evaporator_td = How much colder the cold coil is than its air
gap-condenser_split = How much hotter the hot coil is than its air
while-cooling = while it cooled
while-heating = while it heated
num-box = Air in the cold room
num-charge = Fluid in the unit, by weight
num-amps = Current that the pump of the unit draws
num-vacuum = How empty the pipes were before we filled them

## What stays open

open-hold = A test for leaks still runs.
open-evacuation = We still draw the air out of the pipes.
open-pour = Fluid still goes in or out.
open-empty = The pipes are empty. The unit cannot run.
open-leak = A leak is still there.
open-patch = A leak is only patched.
open-top_up = We added fluid, but did not find where it went.
open-close_up = After we opened the pipes, a part of the work has no note.
open-finding = Something that we found is not mended.
open-look_again = Something is mended, but we did not look at it once more.
open-failed = The test that failed before still fails.
open-unproven = We did not take the test that failed once more.
open-no_test = We did not write down a test that shows your trouble.
open-reset = We set a switch back and do not know why it had cut off.
open-safety_cause = A safety switch cut the unit off. We do not know why yet.
open-open_link = A part of the controls still cuts the unit off.
open-second_code = The unit may hold one more fault sign that we did not read.
open-temporary = Something that we set for our work is not set back yet.
open-locked = The unit is locked off.
open-stop = The unit is at a limit. It must not run like this.
open-condition = Something on the unit is still marked as not normal.
open-supply = The power that comes to the unit is not right.
open-fuse_hunt = A fuse blew, and we do not know why yet.
open-damper = A flap in the air duct does not move as it should.
open-defrost = The ice does not melt off as it should.
open-cleaning = A coil is not all clean yet.
open-box_check = Something at the cold room is not right.
open-box_mark = Something at the cold room is still open.
open-food = Food stood too warm.
open-task = One thing on our list is not done.
open-timer = One of our waits was cut short.
open-clash = Two of our notes do not fit together.

## When we come back

next-recheck = We come back on { $day } to look again.
next-return = We come back on { $day } to go on.
next-part = A part should be here by { $day }.
next-watch = We keep an eye on this, till { $day }.
next-season = This is due again on { $day }.

## What we advise

advice-leak = Fluid does not get used up. If some is gone, it leaked. Have the leak found and mended. To fill it up each year costs more in the end.
advice-filter = Look at the filter each month. Change it when it is gray. A full filter can stop the unit.
advice-coil = Have the coils washed each year before it gets hot.
advice-drain = Have the drain flushed each year.
advice-air = Keep two feet free all round the unit. Keep all air vents open.
advice-compressor = This pump will not get better. Ask us what a repair and a new unit would cost, while it still runs.
advice-block = Have this mended soon. The pump of the unit suffers each day it runs like this.
advice-power = Have the power to the unit checked by someone with a license.
advice-fan = Do not run the unit till the fan is mended.
advice-overfull = Let only people with a license add fluid, and only by weight.
advice-safety = Never put a safety switch out of use. It is there to keep people safe.
advice-heat = Close doors and shade the sun. That takes work off the unit.

## Options and the decision

opt-title = Your options
opt-repair = Repair
opt-repair_more = Repair, and more
opt-assembly = Repair with a whole new group of parts
opt-replace = New unit
opt-total = All together
opt-share = This is { $share } of the price of a new unit.
opt-think-twice = Many owners think twice from { $share } on.
opt-energy = It uses power for about { $low } to { $high } a year.
opt-age = The unit is { $age ->
    [one] one year
   *[other] { $age } years
  } old. Units like it last { $low } to { $high } years as a rule.
opt-failures = It needed { $times ->
    [one] one repair
   *[other] { $times } repairs
  } in the last three years.
opt-leaves = What it leaves open
opt-leaves-none = Nothing that we know of.
opt-risks = What you should know
opt-hinge = What the choice hinges on
hinge-pays = The new unit costs { $more } more today. It saves { $low } to { $high } a year in power. That pays it back in { $first } to { $last } years.
hinge-perhaps = The new unit costs { $more } more today. It saves at most { $high } a year in power. That pays it back in { $first } years at best.
hinge-never = The new unit costs { $more } more today. It saves no power here, so it does not pay for itself that way.
hinge-life = How long the old unit goes on counts most. Units of its age have { $low } to { $high } years left as a rule.
hinge-over = How long the old unit goes on counts most. It has passed the age at which such units are changed as a rule.
note-energy = The power is our estimate: { $first } to { $last } hours at full work a year, at { $low } to { $high } for each kilowatt hour.
risk-old = The unit is old. Some other part may fail soon.
risk-gone = Its refrigerant is no longer made. It gets rare and dear.
risk-shrinking = Less of its refrigerant is made each year. It may get dear.
risk-compressor = The pump is worn. It may fail at any time.
risk-leak = A leak stays open. The unit will lose refrigerant.
risk-declined = If you do nothing, the trouble stays and may get worse.
line-each = { $count } at { $price }
line-hour = { $count } h at { $price }
line-lb = { $count } lb at { $price }
line-kg = { $count } kg at { $price }
axis-years = Years from now
axis-cost = Cost in all, with power
choose = Choose one
choose-none = None of these
your-name = Your name
your-words = Anything to add?
sign-here = Sign here with your finger or mouse
sign-clear = Clear
sign-typed = I sign by typing my name.
read-risks = I have read what stays open and what I should know.
send-choice = Send my choice
chosen-thanks = Thank you. We have your choice.
chosen-what = { $name } chose: { $option }
chosen-when = Signed on { $day }.
choose-again = You can still choose another way. Then the last choice counts.
wrong-choose = Please choose one.
wrong-name = Please write your name.
wrong-sign = Please sign: a dot is too little. Or tick that you sign by typing your name.
wrong-risks = Please tick that you have read it.
wrong-changed = The options have changed since you opened this page. Please read them once more.

## Notice of danger

tag-title = Danger: do not use
tag-what = What is not safe
tag-done = What we did
tag-gas = The gas to the unit is off.
tag-on = A red tag hangs on the unit. Its number is { $number }.
tag-on-bare = A red tag hangs on the unit.
tag-must = Please leave it off. Let no one turn it on till someone with a license has mended and checked it.
tag-smell = If you smell gas or feel ill, go outside at once and call for help from there.
tag-told = Who was told
tag-signed = { $who } was told and signed on { $day }.
tag-refused = { $who } was told on { $day } and did not want to sign. { $how }
tag-absent = { $who } was not there on { $day }. { $how }
tag-only-told = { $who } was told on { $day }.
tag-by = { $people }, for { $shop }
tag-law = Local law may want more. It comes first.
