# make demo   sets everything up and serves the demo household
# make test   sets everything up (Chromium too) and runs every check and test
# make quick  runs all but the browser's stories, for one's own loop
# make schema rewrites docs/whole.schema.json after a migration
# make styles rebuilds the stylesheet after templates or styles changed (needs Node; nothing else does)
PYTHON ?= python3
BIN := .venv/bin

.PHONY: demo test quick styles schema screenshots clean

.venv/run.stamp: requirements/run.txt
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --require-hashes -r requirements/run.txt
	ln -sf ../../bin/bolsa $(BIN)/bolsa
	touch $@

.venv/test.stamp: requirements/test.txt
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --require-hashes -r requirements/test.txt
	ln -sf ../../bin/bolsa $(BIN)/bolsa
	touch $@ .venv/run.stamp

/usr/bin/chromium:
	apt-get update -qq
	DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium >/dev/null

demo: .venv/run.stamp
	$(BIN)/python -m bolsa demo $(ARGS)

test: .venv/test.stamp /usr/bin/chromium
	$(BIN)/python -m tests.run $(ARGS)

quick: .venv/test.stamp
	$(BIN)/python -m tests.run --quick $(ARGS)

styles:
	npm install --silent --no-save --no-fund --no-audit
	npm run --silent styles
	$(PYTHON) -m tests.checks.styles --write

schema: .venv/run.stamp
	PYTHONPATH=. $(BIN)/python docs/write_schema.py

screenshots: .venv/test.stamp /usr/bin/chromium
	PYTHONPATH=. $(BIN)/python docs/take_screenshots.py $(ARGS)

clean:
	rm -rf .venv node_modules demo
