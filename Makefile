# Everything a person types. Each target says what it does and may be run again at any time.
SHELL := /bin/bash
PYTHON := .venv/bin/python
# Tests at once: a browser and a database each. One more than there are cores, since each waits for the other.
WORKERS ?= $(shell cores=$$(nproc); echo $$(( cores < 2 ? 3 : cores > 7 ? 8 : cores + 1 )))

.PHONY: demo test setup setup-test engines bare stop reset bench lint trends calibrate accuracy accuracy-parts policies fuzz texts audit

demo: setup           ## the demo shop at http://127.0.0.1:8000 (PORT), in the foreground
	@$(PYTHON) -m dry_gauge.demo run

test: setup-test      ## every test, in a real PostgreSQL and a real browser
	@$(PYTHON) -m pytest -n $(WORKERS) --dist loadfile

setup:                ## install what the application needs
	@scripts/setup.sh run

setup-test:           ## and what the tests need
	@scripts/setup.sh dev

engines:              ## a visit in Firefox and WebKit, both installed where they are missing; PICTURES=directory keeps what was seen
	@scripts/setup.sh engines
	@$(PYTHON) -m pytest tests/browser/other_engines.py

bare: setup-test      ## an installation from nothing in a bare Debian, and the browser on it; as root
	@scripts/bare_debian.sh

stop:                 ## stop the demo; its data stays
	@if [ -x $(PYTHON) ]; then $(PYTHON) -m dry_gauge.demo stop; else echo "Nothing is set up yet."; fi

reset:                ## stop the demo and delete its data
	@if [ -x $(PYTHON) ]; then $(PYTHON) -m dry_gauge.demo reset; else rm -rf var; fi

bench: setup-test     ## speeds and ratios, printed
	@PYTHONPATH=. $(PYTHON) scripts/bench.py

lint: setup-test      ## style, scripts, types and layers
	@.venv/bin/ruff check . && .venv/bin/ruff format --check --quiet . && .venv/bin/oxlint --quiet src/dry_gauge/web/static tests && .venv/bin/mypy && .venv/bin/lint-imports

trends: setup-test    ## which way each fault moves each gap of the simulated units, printed
	@PYTHONPATH=. $(PYTHON) scripts/trends.py

calibrate: setup-test ## teaches the judgement anew from the simulated makes; where the bench or the hypotheses change
	@PYTHONPATH=. $(PYTHON) scripts/calibrate.py

accuracy: setup-test  ## how often the judgement is right, on simulated units it has not seen; writes docs/accuracy.md but for its parts
	@PYTHONPATH=. $(PYTHON) scripts/accuracy.py

accuracy-parts: setup-test ## those: lower stages, more readings, sealed work, control chains, boxes, ways to work; half an hour more
	@for part in sealed walker box read stage; do PYTHONPATH=. $(PYTHON) scripts/accuracy_$$part.py || exit 1; done
	@PYTHONPATH=. $(PYTHON) scripts/policies.py

policies: setup-test  ## made-up calls worked through in several ways, in minutes, harm and what held; writes its part of docs/accuracy.md
	@PYTHONPATH=. $(PYTHON) scripts/policies.py

fuzz: setup-test      ## 10,000 odd requests to every route; SEED and REQUESTS as printed
	@PYTHONPATH=. $(PYTHON) scripts/fuzz.py

texts: setup-test     ## every text of the interface in one place, docs/texts-en.txt; FILES names some of them, to be printed
	@$(PYTHON) scripts/texts.py $(FILES)

audit: setup-test     ## the pinned packages against public advisories (needs a network), and their bill of materials
	@$(PYTHON) scripts/audit.py
