# Every target is one line; what it does stands in tools/.
.PHONY: demo demo-fresh test bench build
demo: ; @tools/demo.sh
demo-fresh: ; @tools/demo.sh --fresh
test: ; @tools/test.sh
bench: ; @tools/test.sh bench
build: ; CGO_ENABLED=0 go build -trimpath -ldflags "-s -w" -o bin/itemrack ./cmd/itemrack
