package kit

import (
	"encoding/json"
	"reflect"
	"strings"
)

// bare is a value as JSON has it, without the fields that only those may see who see costs:
// those tagged see:"costs".
func bare(v any) any { return without(reflect.ValueOf(v)) }

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
		if name == "-" || field.Tag.Get("see") == "costs" || !field.IsExported() {
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
