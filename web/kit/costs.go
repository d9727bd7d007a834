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

// masked is a value without what its fields tagged see:"costs" hold: they are zero, so that no page can show what it
// should not.
func masked(v any) any {
	if v == nil || !hides(reflect.TypeOf(v)) {
		return v
	}
	return mask(reflect.ValueOf(v)).Interface()
}

func mask(v reflect.Value) reflect.Value {
	if !v.IsValid() || !hides(v.Type()) {
		return v
	}
	switch v.Kind() {
	case reflect.Interface:
		if v.IsNil() {
			return v
		}
		made := reflect.New(v.Type()).Elem()
		made.Set(mask(v.Elem()))
		return made
	case reflect.Pointer:
		if v.IsNil() {
			return v
		}
		made := reflect.New(v.Type().Elem())
		made.Elem().Set(mask(v.Elem()))
		return made
	case reflect.Array:
		made := reflect.New(v.Type()).Elem()
		for i := range v.Len() {
			made.Index(i).Set(mask(v.Index(i)))
		}
		return made
	case reflect.Slice:
		if v.IsNil() {
			return v
		}
		made := reflect.MakeSlice(v.Type(), v.Len(), v.Len())
		for i := range v.Len() {
			made.Index(i).Set(mask(v.Index(i)))
		}
		return made
	case reflect.Map:
		made := reflect.MakeMapWithSize(v.Type(), v.Len())
		for _, key := range v.MapKeys() {
			made.SetMapIndex(key, mask(v.MapIndex(key)))
		}
		return made
	case reflect.Struct:
		made := reflect.New(v.Type()).Elem()
		made.Set(v)
		for i := range v.NumField() {
			switch f := v.Type().Field(i); {
			case f.Tag.Get("see") == "costs" && f.IsExported():
				made.Field(i).SetZero()
			case f.IsExported():
				made.Field(i).Set(mask(v.Field(i)))
			}
		}
		return made
	}
	return v
}

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
