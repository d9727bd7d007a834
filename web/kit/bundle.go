package kit

import (
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"

	esbuild "github.com/evanw/esbuild/pkg/api"
)

// Modules and styles lie as they are written, under js/ and css/, and go out put together and packed
// small, under bundle/: kit.js has what pages share, hand.js what pages for the hand share beside it, and each place
// has one with the modules of its pages, of which a page runs those that its template names. The styles of all are
// all.css. Each has a map beside it, by which a browser shows it as it was written.

// ofHand are kit's modules that only pages for the hand take.
var ofHand = []string{"js/handheld.js", "js/queue.js", "js/queue_store.js", "js/camera.js"}

// alone are the modules that run by themselves and are in no bundle: workers, and what goes before the page is drawn.
var alone = []string{"js/at_once_worker.js", "js/hand_worker.js", "js/theme.js"}

// kitStyles are kit's styles in their order; those of places come after them.
var kitStyles = []string{"third_party/bootstrap.min.css", "css/tokens.css", "css/page.css", "css/rail.css",
	"css/figure.css", "css/table.css", "css/rack.css", "css/swingtag.css"}

// bundleOf names the bundle that has a module of a place.
func bundleOf(p Place, module string) string {
	switch {
	case slices.Contains(alone, module):
		return ""
	case p.Files != fs.FS(files) && p.Name == "":
		return "more"
	case p.Files != fs.FS(files):
		return strings.ToLower(p.Name)
	case slices.Contains(ofHand, module):
		return "hand"
	}
	return "kit"
}

// bundled are the bundles of assets and their maps; of says in which bundle each module is.
func bundled(all assets, of map[string]string) (assets, error) {
	begin := map[string]string{}
	for _, module := range slices.Sorted(maps.Keys(of)) {
		switch bundle := of[module]; bundle {
		case "":
		case "kit", "hand":
			begin[bundle] += fmt.Sprintf("export * from %q;\n", "../"+module)
		default:
			begin[bundle] += fmt.Sprintf("modules[%q] = () => import(%q);\n", path.Base(module), "../"+module)
		}
	}
	made := assets{}
	for bundle, code := range begin {
		if bundle != "kit" && bundle != "hand" {
			code = "import \"../js/app.js\";\nconst modules = {};\n" + code +
				"for (const s of document.querySelectorAll(\"script[data-module]\")) modules[s.dataset.module]?.();\n"
		}
		if err := build(made, bundle+".js", code, all, of); err != nil {
			return nil, err
		}
	}
	var styles strings.Builder
	names := slices.Clone(kitStyles)
	for _, name := range slices.Sorted(maps.Keys(all)) {
		if path.Dir(name) == "css" && !slices.Contains(kitStyles, name) {
			names = append(names, name)
		}
	}
	for _, name := range names {
		fmt.Fprintf(&styles, "@import %q;\n", "../"+name)
	}
	return made, build(made, "all.css", styles.String(), all, of)
}

// build puts one bundle together of what it begins with.
func build(made assets, bundle, code string, all assets, of map[string]string) error {
	kind := map[string]esbuild.Loader{".js": esbuild.LoaderJS, ".css": esbuild.LoaderCSS}[path.Ext(bundle)]
	result := esbuild.Build(esbuild.BuildOptions{
		Stdin:             &esbuild.StdinOptions{Contents: code, Loader: kind, Sourcefile: "bundle/" + bundle},
		Outfile:           "/bundle/" + bundle,
		Bundle:            true,
		Format:            esbuild.FormatESModule,
		MinifyWhitespace:  true,
		MinifySyntax:      true,
		MinifyIdentifiers: true,
		Sourcemap:         esbuild.SourceMapLinked,
		Plugins:           []esbuild.Plugin{{Name: "assets", Setup: all.resolving(bundle, of)}},
	})
	if len(result.Errors) > 0 {
		return errors.New(strings.Join(esbuild.FormatMessages(result.Errors, esbuild.FormatMessagesOptions{}), "\n"))
	}
	for _, f := range result.OutputFiles {
		made["bundle/"+path.Base(f.Path)] = f.Contents
	}
	return nil
}

// resolving finds what modules and styles of a bundle import. What another bundle has is left to that one;
// libraries that are fetched when they are needed, fonts and drawings stay where they lie.
func (a assets) resolving(bundle string, of map[string]string) func(esbuild.PluginBuild) {
	const here = "assets"
	return func(b esbuild.PluginBuild) {
		b.OnResolve(esbuild.OnResolveOptions{Filter: "."},
			func(asked esbuild.OnResolveArgs) (esbuild.OnResolveResult, error) {
				from := asked.Importer
				if asked.Namespace != here {
					from = "bundle/" + bundle
				}
				if strings.HasPrefix(asked.Path, "data:") {
					return esbuild.OnResolveResult{Path: asked.Path, External: true}, nil
				}
				name := path.Join(path.Dir(from), asked.Path)
				if other, known := of[name]; known && (other == "kit" || other == "hand") && other+".js" != bundle {
					return esbuild.OnResolveResult{Path: "./" + other + ".js", External: true}, nil
				}
				fetched := asked.Kind == esbuild.ResolveJSDynamicImport && of[name] == ""
				if fetched || asked.Kind == esbuild.ResolveCSSURLToken {
					return esbuild.OnResolveResult{Path: "../" + name, External: true}, nil
				}
				return esbuild.OnResolveResult{Path: name, Namespace: here}, nil
			})
		b.OnLoad(esbuild.OnLoadOptions{Filter: ".", Namespace: here},
			func(asked esbuild.OnLoadArgs) (esbuild.OnLoadResult, error) {
				data, ok := a[asked.Path]
				if !ok {
					return esbuild.OnLoadResult{}, fmt.Errorf("%s imports %s, which is not there", bundle, asked.Path)
				}
				code := string(data)
				return esbuild.OnLoadResult{Contents: &code, Loader: esbuild.LoaderDefault}, nil
			})
	}
}

// module is how a page runs one of the modules of places: by the bundle that has it.
func (h *House) module(name string) (template.HTML, error) {
	bundle := h.bundles["js/"+name]
	if bundle == "" {
		return "", fmt.Errorf("there is no module %s", name)
	}
	return template.HTML(fmt.Sprintf( //nolint:gosec // names of ours
		`<script type="module" src="%s" data-module="%s"></script>`, h.static("bundle/"+bundle+".js"), name)), nil
}

// ahead is the address of the bundle of the place of a name, which is loaded when somebody is about to go there.
func (h *House) ahead(place string) string {
	return h.static("bundle/" + strings.ToLower(place) + ".js")
}

// address is the one of a static file, with the version of all.
func (h *House) static(name string) string { return "/static/" + h.version + "/" + name }
