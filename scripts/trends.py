"""`make trends`: how each medium fault moves each gap of every sort of unit, beside the sign the trade expects."""

from __future__ import annotations

from dry_gauge.bench.trends import SHOWN, SORTS, moved


def main() -> None:
    wrong = 0
    for sort in SORTS:
        print(f"\n{sort.name} ({sort.plate.refrigerant.name}): F; suction, head and amps in per cent")
        print(f"{'':26}" + "".join(f"{name:>17}" for name in SHOWN))
        for fault, row in moved(sort).items():
            cells = ""
            for name in SHOWN:
                sign = sort.signs[fault].get(name, "")
                agrees = not sign or (row[name] > 0) == (sign == "+")
                wrong += not agrees
                cells += f"{row[name]:+13.1f} {sign or ' '}{' ' if agrees else '!'} "
            print(f"{fault.value:26}{cells}")
    print(f"\n{wrong} against the expected sign")


if __name__ == "__main__":
    main()
