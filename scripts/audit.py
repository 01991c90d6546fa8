"""The pinned packages against the public advisories, and a bill of materials (CycloneDX) written beside them.

Advisories come from the network. Where it is not reachable that is said and the status is 2: nothing was found out.
"""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

from cyclonedx.model.bom import Bom
from cyclonedx.model.component import Component, ComponentType
from cyclonedx.output import make_outputter
from cyclonedx.schema import OutputFormat, SchemaVersion
from packageurl import PackageURL
from pip_requirements_parser import RequirementsFile

ROOT = Path(__file__).resolve().parents[1]
PINS = ROOT / "requirements" / "run.txt"
BILL = ROOT / "requirements" / "bill-of-materials.json"


def write_bill() -> int:
    """Every pinned package of the application with its hashes; how many there are."""
    bom = Bom()
    for one in RequirementsFile.from_file(str(PINS)).requirements:
        version = one.get_pinned_version
        found = PackageURL("pypi", name=one.name, version=version)
        bom.components.add(Component(name=one.name, version=version, type=ComponentType.LIBRARY, purl=found, bom_ref=str(found)))
    written = json.loads(make_outputter(bom, OutputFormat.JSON, SchemaVersion.V1_6).output_as_string())
    for passing in ("serialNumber", "metadata"):  # made anew each time: the file changes only where a package does
        written.pop(passing, None)
    BILL.write_text(json.dumps(written, indent=1, sort_keys=True) + "\n")
    return len(bom.components)


def main() -> int:
    print(f"{BILL.relative_to(ROOT)}: {write_bill()} packages")
    asked = [
        sys.executable,
        "-m",
        "pip_audit",
        "--disable-pip",
        "--require-hashes",
        "-r",
        str(PINS),
        "--format",
        "json",
        "--timeout",
        "10",
        "--progress-spinner",
        "off",
    ]
    done = subprocess.run(asked, capture_output=True, text=True, check=False)
    try:
        packages = json.loads(done.stdout)["dependencies"]
    except (ValueError, KeyError):
        packages = []
    known = [one for one in packages if "vulns" in one]
    for one in known:
        for found in one["vulns"]:
            mended = ", ".join(found["fix_versions"]) or "no release yet"
            print(f"{one['name']} {one['version']}: {found['id']}, mended in {mended}")
    if len(known) < len(packages) or not packages:
        print(
            f"Advisories were reached for {len(known)} packages only: of the others nothing was found out. Run this where "
            "there is a network."
        )
        return 2
    weak = sum(bool(one["vulns"]) for one in known)
    print(f"{len(known)} packages asked about, {weak} with advisories.")
    return 1 if weak else 0


if __name__ == "__main__":
    sys.exit(main())
