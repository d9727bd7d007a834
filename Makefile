# Every target is one line; what it does stands in tools/.
.PHONY: demo demo-fresh test bench fuzz mutate build
demo: ; @tools/demo.sh
demo-fresh: ; @tools/demo.sh --fresh
test: ; @tools/test.sh
bench: ; @tools/test.sh bench
fuzz: ; @tools/fuzz.sh
mutate: ; @tools/mutate.sh
build: ; CGO_ENABLED=0 go build -trimpath -ldflags "-s -w" -o bin/itemrack ./cmd/itemrack
