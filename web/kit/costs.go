package kit

import (
	"encoding/json"
	"reflect"
	"strings"
	"sync"
)

// bare is a value as JSON has it, without the fields that only those may see who see costs:
// those tagged see:"costs".
func bare(v any) any { return without(reflect.ValueOf(v)) }

// secretive keeps, by type, whether a value of it may hold a field tagged see:"costs".
var secretive sync.Map

// hides reports whether bare may leave something out of values of a type.
func hides(t reflect.Type) bool {
	if known, ok := secretive.Load(t); ok {
		return known.(bool)
	}
	found := within(t, map[reflect.Type]bool{})
	secretive.Store(t, found)
	return found
}

func within(t reflect.Type, met map[reflect.Type]bool) bool {
	if met[t] || t.Implements(marshals) {
		return false
	}
	met[t] = true
	switch t.Kind() {
	case reflect.Interface: // it may be of any type
		return true
	case reflect.Pointer, reflect.Slice, reflect.Array, reflect.Map:
		return within(t.Elem(), met)
	case reflect.Struct:
		for i := range t.NumField() {
			f := t.Field(i)
			told := f.Tag.Get("json") != "-" && (f.IsExported() || f.Anonymous)
			if f.Tag.Get("see") == "costs" || told && within(f.Type, met) {
				return true
			}
		}
	}
	return false
}

var marshals = reflect.TypeFor[json.Marshaler]()

func without(v reflect.Value) any {
	if !v.IsValid() {
		return nil
	}
	if v.Type().Implements(marshals) && (v.Kind() != reflect.Pointer || !v.IsNil()) {
		return v.Interface()
	}
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if v.IsNil() {
			return nil
		}
		return without(v.Elem())
	case reflect.Slice, reflect.Array:
		if v.Kind() == reflect.Slice && v.IsNil() {
			return nil
		}
		if v.Type().Elem().Kind() == reflect.Uint8 {
			return v.Interface()
		}
		list := make([]any, v.Len())
		for i := range list {
			list[i] = without(v.Index(i))
		}
		return list
	case reflect.Map:
		if v.Type().Key().Kind() != reflect.String {
			return v.Interface()
		}
		fields := make(map[string]any, v.Len())
		for _, key := range v.MapKeys() {
			fields[key.String()] = without(v.MapIndex(key))
		}
		return fields
	case reflect.Struct:
		fields := map[string]any{}
		bareFields(v, fields)
		return fields
	}
	return v.Interface()
}

// bareFields puts the fields of a struct into a map, those of embedded ones among them.
func bareFields(v reflect.Value, into map[string]any) {
	for i := range v.NumField() {
		field := v.Type().Field(i)
		name, options, _ := strings.Cut(field.Tag.Get("json"), ",")
		if name == "-" || field.Tag.Get("see") == "costs" || !field.IsExported() && !field.Anonymous {
			continue
		}
		if field.Anonymous && name == "" {
			inner := v.Field(i)
			for inner.Kind() == reflect.Pointer && !inner.IsNil() {
				inner = inner.Elem()
			}
			if inner.Kind() == reflect.Struct {
				deeper := map[string]any{}
				bareFields(inner, deeper)
				for k, value := range deeper {
					if _, nearer := into[k]; !nearer {
						into[k] = value
					}
				}
				continue
			}
		}
		if name == "" {
			name = field.Name
		}
		if strings.Contains(options, "omitempty") && v.Field(i).IsZero() {
			continue
		}
		into[name] = without(v.Field(i))
	}
}
