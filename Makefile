# make demo   builds what is needed and runs the service with the demo world; Ctrl-C stops it
# make test   installs what the tests need and runs them all
# make build  leaves bin/come-aboard and bin/aboard, ready to run
# make mutants  changes Core in one small way at a time and looks whether its tests notice; make mutants FOLDER=Access looks at one folder
# make bench  measures against the bare engines; make bench ROW=V4 measures one row

SHELL := bash
.SHELLFLAGS := -eu -o pipefail -c
.DEFAULT_GOAL := build
export DOTNET_CLI_TELEMETRY_OPTOUT = 1
export DOTNET_NOLOGO = 1
# Compilers end before profiles of their methods pay for having been gathered: 75 s became 41 for the service, measured.
export DOTNET_TieredPGO = 0

PUBLISH := $(if $(IS_COMPILED),dotnet,scripts/compile) publish -c Release -v quiet $(if $(IS_COMPILED),--no-build)
SHARED := $(wildcard *.props global.json)
SERVICE_SOURCES := $(SHARED) $(shell find src demo -type f -not -path '*/bin/*' -not -path '*/obj/*' -not -path 'src/Cli/*')
CLI_SOURCES := $(SHARED) $(shell find src/Cli src/Client -type f -not -path '*/bin/*' -not -path '*/obj/*')
CONSOLE_SOURCES := $(wildcard console/*.json console/*.ts console/*.mjs console/index.html) $(shell find console/src -type f)

.PHONY: build compiled needs demo world test bench mutants types schema format check clean
.DELETE_ON_ERROR:

build: bin/come-aboard bin/aboard

bin/come-aboard: out/service.stamp out/console.stamp
	rm -rf out/service/console
	cp -r console/dist out/service/console
	mkdir -p bin
	ln -sfn ../out/service/come-aboard $@
	touch -h $@

bin/aboard: out/cli.stamp
	mkdir -p bin
	ln -sfn ../out/cli/aboard $@

out/service.stamp: $(SERVICE_SOURCES)
	$(PUBLISH) src/Service -o out/service
	touch $@

# After the service: they share projects, which two at once would compile into the same place.
out/cli.stamp: $(CLI_SOURCES) | $(if $(IS_COMPILED),,out/service.stamp)
	scripts/need gcc libc6-dev zlib1g-dev
	$(PUBLISH) src/Cli -o out/cli
	touch $@

console/node_modules/.stamp: console/package-lock.json
	cd console && npm ci --silent --no-audit --no-fund --fetch-retries 6
	touch $@

out/console.stamp: console/node_modules/.stamp $(CONSOLE_SOURCES)
	cd console && npm run --silent build -- --logLevel warn
	mkdir -p out
	touch $@

# The world of the day is made on one core while the rest is built on the other; made already, it costs a second.
demo:
	$(MAKE) -j2 build world
	exec bin/come-aboard demo

world: out/service.stamp
	@echo Making the demo world, or finding the one that is kept
	out/service/come-aboard demo --prepare

# Everything is compiled once, with the console beside it; what is published after that is only made ready for this machine.
test:
	$(MAKE) -j3 needs out/console.stamp compiled
	$(MAKE) -j2 build IS_COMPILED=yes
	scripts/test

compiled:
	scripts/compile build ComeAboard.slnx -c Release -v quiet --nologo

# What stands beside the product in the scenes is put in place while it is compiled.
needs:
	scripts/test --prepare

bench: build
	scripts/bench $(ROW)

mutants:
	scripts/mutants $(FOLDER)

# The description of the interface and the console's types are kept in the repository; a test tells when they are old.
types: out/service.stamp console/node_modules/.stamp
	out/service/come-aboard describe > docs/openapi.json
	cd console && npm run --silent types

# A new database is made by the words that all migrations come to, and a start reads the mapping as it was compiled: tests tell when
# they are old. The tool names each mapping it compiles at random; ours keep theirs.
schema:
	dotnet tool restore
	dotnet build src/Storage -c Release -v quiet --nologo -p:WithoutCompiled=yes
	for engine in Sqlite Postgres; do \
	  whole=src/Storage/Migrations/$$engine/Whole.sql; \
	  dotnet ef migrations script --no-transactions --no-build --configuration Release -p src/Storage -s src/Storage -c $${engine}Context -o $$whole; \
	  sed -i '1s/^\xEF\xBB\xBF//' $$whole; \
	  rm -rf src/Storage/Compiled/$$engine; \
	  dotnet ef dbcontext optimize --no-build --configuration Release -p src/Storage -s src/Storage -c $${engine}Context \
	    -o Compiled/$$engine -n ComeAboard.Storage.Compiled.$$engine; \
	  id=$$(printf %s $$engine | md5sum | cut -c 1-32); \
	  sed -i -E "1s/^\xEF\xBB\xBF//; s/(modelId: new Guid\(\")[^\"]*/\1$$id/" src/Storage/Compiled/$$engine/*.cs; \
	done

format: console/node_modules/.stamp
	dotnet tool restore
	dotnet csharpier format .
	cd console && npm run --silent format

check: console/node_modules/.stamp
	dotnet tool restore
	dotnet csharpier check .
	cd console && npm run --silent check

clean:
	rm -rf out bin console/dist
