### Lo que lee el dueño, en español. Frases cortas, palabras cortas, sin palabras del oficio.

language = Español
locale = es_US

## La página

report = Su informe de servicio
of-unit = { $tag }, { $serves }
visit-of = Visita del { $day }.
by-whom = La hizo { $people }.
sec-asked = Lo que usted pidió
sec-answer = En pocas palabras
sec-safety = Lea esto primero
sec-found = Lo que vimos
sec-done = Lo que hicimos
sec-numbers = Lo que marca ahora
sec-open = Lo que queda abierto
sec-next = Cuándo volvemos
sec-advice = Lo que le aconsejamos
sec-pictures = Fotos
sec-choice = Su decisión
col-what = Lo que medimos
col-before = Antes
col-now = Ahora
col-should = Debe marcar
col-tells = Eso está
none-asked = Nadie anotó por qué llamó usted.
none-found = No vimos nada malo.
none-done = No le hicimos nada al equipo.
none-numbers = No medimos nada después del trabajo.
none-open = No queda nada abierto.
in-our-words = Nuestra nota: { $words }
quoted = «{ $words }»
valid-until = Puede ver esta página hasta el { $day }. Luego se cierra sola.
as-of = Así estaban nuestras notas el { $day }.
plus-minus = El signo «±» dice qué tan exacto es un número. El valor real cae ahí 95 veces de cada 100.
assumed = por una regla común, no por su equipo
by-label = por la placa o la fábrica
by-rule = por una regla común
tells-right = bien
tells-low = bajo
tells-high = alto
tells-unsure = muy justo para saber
tells-none = sin un número con qué comparar
not-again = no se midió otra vez
between = { $low } a { $high }
at-most = { $most } o menos
at-least = { $least } o más
about = cerca de { $aim }
draft-note = Aún estamos en la obra. Este informe puede cambiar.
not-here = Aquí no hay nada que leer.
not-here-why = El enlace es viejo o su taller lo cerró. Pídale uno nuevo.
too-many = Son muchas pruebas desde aquí. Espere un cuarto de hora.
call-shop = ¿Dudas? Llame a { $shop }.
print-it = Imprimir o guardar

## Cómo terminó

outcome-fixed = El equipo está listo. Lo probamos y anda como debe.
outcome-not-tested = El trabajo está hecho. No hicimos otra vez la prueba de su problema.
outcome-improved = El equipo anda mejor. Falta trabajo.
outcome-nothing_wrong = No vimos nada malo en el equipo.
outcome-waiting = Nos falta una pieza o su respuesta.
outcome-not_fixed = El equipo no está listo todavía.
outcome-open = Aún estamos en la obra.
outcome-closed = La visita terminó.

## Seguridad

safe-locked = El equipo está con candado. No lo prenda, por favor.
safe-tagged = El equipo no es seguro. Déjelo apagado hasta que volvamos.
safe-stop = Deje el equipo apagado por ahora. Se puede dañar si anda.
safe-danger = Si huele gas o se siente mal, salga y pida ayuda desde afuera.
safe-food = No venda ni coma lo que estuvo tibio. Si tiene duda, llame a la oficina de salud.

## Por qué llamó

asked-not_cold = No daba mucho frío.
asked-never_stops = No paraba nunca.
asked-intermittent = Un día andaba y otro no.
asked-one_area = A una parte no le llegaba el aire.
asked-water = Había agua.
asked-ice = Había hielo.
asked-trips_hot_afternoons = Se paraba en las tardes de calor.
asked-no_heat = No daba calor.
asked-noise = Hacía ruido.
asked-warm_box = El cuarto frío estaba tibio.
asked-does_not_run = No andaba.
asked-inspection = Nos pidió que lo miremos.

## Lo que dicen los números

cause-none = No vimos falla en cómo anda el equipo.
cause-undercharge = Al equipo le falta gas. Es el que lleva el calor.
cause-overcharge = El equipo tiene gas de más. Es el que lleva el calor.
cause-low_evaporator_airflow = Pasa poco aire por la bobina fría.
cause-high_evaporator_load = Entra más calor del que el equipo saca.
cause-low_condenser_airflow = Pasa poco aire por la bobina caliente. No puede botar el calor.
cause-liquid_line_restriction = Algo tapa el tubo que va a la bobina fría.
cause-metering_underfeeding = La llave de la bobina fría deja pasar muy poco.
cause-metering_overfeeding = La llave de la bobina fría deja pasar de más.
cause-non_condensables = Hay aire en los tubos. Ahí solo debe ir el gas.
cause-inefficient_compressor = La bomba del equipo se gastó. Ya no empuja bien.
cause-wrong_refrigerant = Los tubos tienen otro gas, o dos gases juntos.
was-undercharge = Al equipo le faltaba gas. Es el que lleva el calor.
was-overcharge = El equipo tenía gas de más. Es el que lleva el calor.
was-low_evaporator_airflow = Pasaba poco aire por la bobina fría.
was-high_evaporator_load = Entraba más calor del que el equipo saca.
was-low_condenser_airflow = Pasaba poco aire por la bobina caliente. No podía botar el calor.
was-liquid_line_restriction = Algo tapaba el tubo que va a la bobina fría.
was-metering_underfeeding = La llave de la bobina fría dejaba pasar muy poco.
was-metering_overfeeding = La llave de la bobina fría dejaba pasar de más.
was-non_condensables = Había aire en los tubos. Ahí solo debe ir el gas.
was-inefficient_compressor = La bomba del equipo estaba gastada. Ya no empujaba bien.
was-wrong_refrigerant = Los tubos tenían otro gas, o dos gases juntos.
how-sure = Lo damos por cierto en cerca de un { $share }.
how-sure-then = Lo dimos por cierto en cerca de un { $share }.
leak-at = Se sale por aquí: { $place }.
open-link-found = Esta parte del mando paraba el equipo: { $part }.

## Lo que vimos

seen-filter_dirty = El filtro estaba lleno de polvo.
seen-filter_missing = No había filtro.
seen-evaporator_dirty = La bobina de adentro estaba sucia.
seen-condenser_dirty = La bobina de afuera estaba sucia.
seen-condenser_fan_stopped = El ventilador de afuera no giraba.
seen-condenser_fan_reversed = El ventilador de afuera giraba al revés.
seen-condenser_air_recirculating = El equipo volvía a tomar su propio aire.
seen-blower_stopped = El ventilador de adentro no giraba.
seen-blower_belt_slipping = La banda del ventilador patinaba.
seen-damper_closed = Una tapa del ducto de aire estaba cerrada.
seen-oil_stain = Vimos una mancha de aceite. Muchas veces ahí hay una fuga.
seen-drain_blocked = El desagüe estaba tapado y había agua.
seen-ice_on_evaporator_even = La bobina fría estaba llena de hielo.
seen-ice_on_evaporator_patchy = Había hielo en partes de la bobina fría.
seen-compressor_not_pumping = La bomba andaba pero no empujaba.
seen-bearing_worn = Un cojinete estaba gastado.
seen-plug_loose = Un cable o un enchufe estaba suelto.
seen-tubes_rubbing = Dos tubos se rozaban. Con el tiempo eso hace una fuga.
seen-blade_unsafe = Un aspa estaba rota o floja.
seen-heat_exchanger_cracked = La pieza entre la llama y su aire estaba rota. Puede pasar gas malo.
seen-carbon_monoxide = Medimos monóxido de carbono. Ese gas mata y no huele.
seen-refrigerant_indoors = Había gas que puede arder dentro del local.
seen-safety_bridged = Alguien anuló una llave de seguridad.
seen-rotation_reversed = La luz estaba mal puesta y los motores giraban al revés.
seen-water_at_electrics = Había agua cerca de partes con luz.
seen-burnt_parts = Vimos partes quemadas en la caja de luz.
seen-ground_missing = Faltaba el cable de tierra.
end-mended = Eso ya está listo.
end-booked = Volvemos por eso.
end-accepted = Queda así por ahora. La razón: { $why }
end-safe = El equipo quedó apagado y seguro.
end-open = Eso sigue igual.

## Dónde

place-service_cores = las llaves donde medimos
place-flares = una unión de los tubos
place-evaporator_bends = las vueltas de la bobina fría
place-evaporator_face = los tubos de la bobina fría
place-condenser_bends = las vueltas de la bobina caliente
place-rubbing = donde rozan los tubos
place-metering = la llave de la bobina fría
place-drier = el filtro del tubo
place-suction_joints = una unión del tubo grueso
place-compressor_bolts = la bomba del equipo
place-receiver = el tanque del equipo
place-pressure_switches = el tubo fino de un mando
place-line_set = los tubos de adentro a afuera
place-other = { $words }

## Lo que hicimos

did-filter_changed = Pusimos un filtro nuevo.
did-evaporator_cleaned = Lavamos la bobina de adentro.
did-condenser_cleaned = Lavamos la bobina de afuera.
did-belt_or_blower = Dejamos bien la banda o el ventilador de adentro.
did-outdoor_fan = Dejamos bien el ventilador de afuera.
did-damper_opened = Abrimos la tapa del ducto de aire.
did-drain_cleared = Limpiamos el desagüe.
did-thawed = Dejamos que el hielo se fuera.
did-charge_adjusted = Pusimos el gas en su punto.
did-metering_device = Dejamos bien la llave de la bobina fría.
did-drier_changed = Pusimos un filtro nuevo en el tubo.
did-electrical_part = Pusimos una pieza nueva en la caja de luz.
did-setting_changed = Hicimos un ajuste.
did-other = Hicimos una cosa más.
did-cleaned-coil = Lavamos la bobina y la dejamos secar.
cured-tightened = Apretamos aquí: { $place }.
cured-joint = Hicimos una unión nueva aquí: { $place }.
cured-new_part = Pusimos una pieza nueva aquí: { $place }.
cured-patch = Pusimos un parche por ahora: { $place }. Un parche puede durar poco.
cured-isolated = Cerramos el paso aquí: { $place }. Falta el arreglo.
moved-recovered = Sacamos { $amount } de gas ({ $fluid }) y lo guardamos.
moved-removed = Sacamos { $amount } de gas ({ $fluid }), pues había de más.
moved-weighed_in = Pusimos { $amount } de gas ({ $fluid }), con balanza.
moved-trimmed = Pusimos { $amount } de gas ({ $fluid }) con el equipo en marcha.
moved-added = Agregamos { $amount } de gas ({ $fluid }).
moved-lost = Se fueron { $amount } de gas ({ $fluid }) por las mangueras.
held-tight = Llenamos los tubos con gas seco para ver si hay fugas. Aguantó.
held-leaking = Llenamos los tubos con gas seco para ver si hay fugas. Bajó, así que aún hay una fuga.
held-too_soon = Llenamos los tubos con gas seco, pero poco tiempo para estar seguros.
held-gain = Llenamos los tubos con gas seco. La prueba no dijo si hay fugas.
emptied = Sacamos todo el aire y el agua de los tubos.
switch-reset = Dimos vuelta a este mando: { $part }.
link-closed = Esta parte del mando ya anda: { $part }.
proved = Hicimos otra vez la prueba que falló. Ahora está bien.
proved-of = Hicimos otra vez la prueba que falló: { $what }. Ahora está bien.

## Lo que medimos

gap-air_split = Cuánto cambia el aire
gap-superheat = Qué tan tibio sale el gas de la bobina fría
gap-subcooling = Qué tan fresco sale el gas de la bobina caliente
gap-evaporator_td = Cuánto más fría que su aire está la bobina fría
gap-condenser_split = Cuánto más tibia que su aire está la bobina caliente
while-cooling = cuando enfriaba
while-heating = cuando calentaba
num-box = El aire del cuarto frío
num-charge = El gas del equipo, por peso
num-amps = La corriente que toma la bomba
num-vacuum = El vacío de los tubos antes de cargar

## Lo que queda abierto

open-hold = Aún hay una prueba de fugas.
open-evacuation = Aún sacamos el aire de los tubos.
open-pour = Aún entra o sale gas.
open-empty = Los tubos están vacíos. El equipo no puede andar.
open-leak = Sigue una fuga.
open-patch = Una fuga solo tiene un parche.
open-top_up = Pusimos gas, pero no vimos por dónde se fue.
open-close_up = Abrimos los tubos y falta anotar una parte del trabajo.
open-finding = Algo que vimos no está listo.
open-look_again = Algo está listo, pero no lo miramos otra vez.
open-failed = La prueba que falló sigue mal.
open-unproven = No hicimos otra vez la prueba que falló.
open-no_test = No anotamos una prueba de su problema.
open-reset = Dimos vuelta a un mando y no sabemos por qué se había parado.
open-safety_cause = Una llave de seguridad paró el equipo. No sabemos por qué.
open-open_link = Una parte del mando aún para el equipo.
open-second_code = El equipo puede tener otro aviso que no leímos.
open-temporary = Movimos algo para el trabajo y falta dejarlo como estaba.
open-locked = El equipo está con candado.
open-stop = El equipo está en un límite. No debe andar así.
open-condition = Algo del equipo sigue marcado como raro.
open-supply = La luz que llega al equipo no está bien.
open-fuse_hunt = Se quemó un fusible y no sabemos por qué.
open-damper = Una tapa del ducto de aire no se mueve como debe.
open-defrost = El hielo no se va como debe.
open-cleaning = Una bobina no está limpia del todo.
open-box_check = Algo del cuarto frío no está bien.
open-box_mark = Algo del cuarto frío sigue abierto.
open-food = Hubo comida tibia.
open-task = Nos falta una cosa de la lista.
open-timer = Cortamos una espera.
open-clash = Dos de nuestras notas no van juntas.

## Cuándo volvemos

next-recheck = Volvemos el { $day } a mirar otra vez.
next-return = Volvemos el { $day } a seguir.
next-part = Una pieza debe llegar el { $day }.
next-watch = Le damos ojo a esto hasta el { $day }.
next-season = Esto toca otra vez el { $day }.

## Lo que aconsejamos

advice-leak = El gas no se gasta. Si falta, se salió por una fuga. Pida que la busquen y la cierren. Llenarlo cada año sale más caro.
advice-filter = Mire el filtro cada mes. Si está gris, ponga uno nuevo. Un filtro lleno puede parar el equipo.
advice-coil = Pida que laven las bobinas cada año antes del calor.
advice-drain = Pida que limpien el desagüe cada año.
advice-air = Deje dos pies libres por todos lados. No tape las salidas de aire.
advice-compressor = Esta bomba no va a sanar. Pida precio del arreglo y de un equipo nuevo, ahora que aún anda.
advice-block = Pida el arreglo pronto. Cada día así le hace daño a la bomba.
advice-power = Pida que alguien con licencia mire la luz que llega al equipo.
advice-fan = No use el equipo hasta que el ventilador esté bien.
advice-overfull = El gas lo pone solo gente con licencia, y por peso.
advice-safety = No anule nunca una llave de seguridad. Está para cuidar a la gente.
advice-heat = Cierre las puertas y dé sombra. Así el equipo trabaja menos.

## Opciones y decisión

opt-title = Sus opciones
opt-repair = Arreglo
opt-repair_more = Arreglo y algo más
opt-assembly = Arreglo con todo el grupo de piezas nuevo
opt-replace = Equipo nuevo
opt-total = En total
opt-share = Es un { $share } del precio de un equipo nuevo.
opt-think-twice = Desde un { $share }, muchos lo piensan dos veces.
opt-energy = Gasta en luz cerca de { $low } a { $high } al año.
opt-age = El equipo tiene { $age ->
    [one] un año
   *[other] { $age } años
  }. Equipos así duran { $low } a { $high } años.
opt-failures = Pidió { $times ->
    [one] un arreglo
   *[other] { $times } arreglos
  } en los últimos tres años.
opt-leaves = Lo que deja abierto
opt-leaves-none = Nada que sepamos.
opt-risks = Lo que debe saber
opt-hinge = De qué depende
hinge-pays = El equipo nuevo cuesta { $more } más hoy. Ahorra { $low } a { $high } al año en luz. Con eso se paga en { $first } a { $last } años.
hinge-perhaps = El equipo nuevo cuesta { $more } más hoy. Ahorra en luz a lo más { $high } al año. Con eso se paga en { $first } años si va bien.
hinge-never = El equipo nuevo cuesta { $more } más hoy. Aquí no ahorra luz, así que no se paga de ese modo.
hinge-life = Lo que más cuenta es cuánto dura el viejo. A su edad quedan { $low } a { $high } años.
hinge-over = Lo que más cuenta es cuánto dura el viejo. Ya pasó la edad en que se cambian.
note-energy = La luz es un cálculo nuestro: { $first } a { $last } horas a plena marcha al año, a { $low } o { $high } por cada kilovatio hora.
risk-old = El equipo es viejo. Otra pieza puede fallar pronto.
risk-gone = Su gas ya no se hace. Será escaso y caro.
risk-shrinking = De su gas se hace menos cada año. Puede subir de precio.
risk-compressor = La bomba está gastada. Puede fallar en todo momento.
risk-leak = Queda una fuga. El equipo va a perder gas.
risk-declined = Si no hace nada, el problema sigue y puede crecer.
line-each = { $count } a { $price }
line-hour = { $count } h a { $price }
line-lb = { $count } lb a { $price }
line-kg = { $count } kg a { $price }
axis-years = Años desde hoy
axis-cost = Costo total, con luz
choose = Elija una
choose-none = Ninguna
your-name = Su nombre
your-words = ¿Algo más?
sign-here = Firme aquí con el dedo o el ratón
sign-clear = Borrar
sign-typed = Firmo con mi nombre escrito.
read-risks = Leí lo que queda abierto y lo que debo saber.
send-choice = Enviar mi decisión
chosen-thanks = Gracias. Ya tenemos su decisión.
chosen-what = { $name } eligió: { $option }
chosen-when = Con firma del { $day }.
choose-again = Aún puede elegir otra cosa. Vale la última.
wrong-choose = Elija una, por favor.
wrong-name = Escriba su nombre, por favor.
wrong-sign = Firme, por favor: un punto es poco. O marque que firma con su nombre escrito.
wrong-risks = Marque que lo leyó, por favor.
wrong-changed = Las opciones cambiaron desde que abrió la página. Léalas otra vez, por favor.

## Aviso de peligro

tag-title = Peligro: no usar
tag-what = Lo que no es seguro
tag-done = Lo que hicimos
tag-gas = El gas del equipo está cerrado.
tag-on = El equipo tiene una etiqueta roja. Su número es { $number }.
tag-on-bare = El equipo tiene una etiqueta roja.
tag-must = Déjelo apagado. Que nadie lo prenda hasta que alguien con licencia lo deje bien y lo pruebe.
tag-smell = Si huele gas o se siente mal, salga ya y pida ayuda desde afuera.
tag-told = A quién se lo dijimos
tag-signed = Se lo dijimos a { $who }, que firmó el { $day }.
tag-refused = Se lo dijimos a { $who } el { $day } y no quiso firmar. { $how }
tag-absent = { $who } no estaba el { $day }. { $how }
tag-only-told = Se lo dijimos a { $who } el { $day }.
tag-by = { $people }, por { $shop }
tag-law = La ley local puede pedir más. Ella va primero.
