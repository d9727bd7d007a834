package kit

import (
	"encoding/json"
	"reflect"
	"regexp"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"
)

var pathParam = regexp.MustCompile(`:(\w+)`)

// object is a JSON object of the document.
type object = map[string]any

// api lists the routes of the API.
func (s *Server) api() []Route {
	var list []Route
	for _, p := range s.places {
		list = append(list, p.API...)
	}
	return list
}

// openAPI describes every route of the API, from the table of routes itself.
func (s *Server) openAPI(c fiber.Ctx) error {
	paths := object{}
	for _, r := range s.api() {
		name := pathParam.ReplaceAllString(r.Path, "{$1}")
		item, ok := paths[name].(object)
		if !ok {
			item = object{}
			paths[name] = item
		}
		item[strings.ToLower(r.Method)] = operation(r)
	}
	document := object{
		"openapi": "3.1.0",
		"info": object{
			"title":       "Item Rack",
			"version":     "1",
			"description": "Every deed of the shop. Amounts and quantities are decimals as text.",
		},
		"servers": []object{{"url": "/api/v1"}},
		"paths":   paths,
		"components": object{
			"securitySchemes": object{"token": object{"type": "http", "scheme": "bearer"}},
			"schemas":         object{"Problem": schema(reflect.TypeFor[Problem]())},
		},
		"security": []object{{"token": []string{}}},
	}
	data, err := json.Marshal(document)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, "application/vnd.oai.openapi+json;version=3.1")
	return c.Send(data)
}

func operation(r Route) object {
	op := object{"summary": r.Doc, "description": "Deed: " + string(r.Deed),
		"responses": object{
			"200": object{
				"description": "Done",
				"content":     object{"application/json": object{"schema": schema(r.Out)}},
			},
			"default": object{
				"description": "Refused (RFC 9457)",
				"content": object{
					"application/problem+json": object{"schema": object{"$ref": "#/components/schemas/Problem"}},
				},
			},
		}}
	params := []object{}
	for _, m := range pathParam.FindAllStringSubmatch(r.Path, -1) {
		params = append(params,
			object{"name": m[1], "in": "path", "required": true, "schema": object{"type": "string"}})
	}
	for _, q := range r.Queries {
		params = append(params,
			object{"name": q.Name, "in": "query", "description": q.Doc, "schema": object{"type": "string"}})
	}
	if r.Method != fiber.MethodGet {
		params = append(
			params,
			object{
				"name":        "Idempotency-Key",
				"in":          "header",
				"description": "The same key gets the first answer and does nothing twice",
				"schema":      object{"type": "string", "maxLength": 100},
			},
			object{
				"name":        personField,
				"in":          "header",
				"description": "Whose request it is; refused when somebody else is signed in",
				"schema":      object{"type": "integer"},
			},
		)
	}
	op["parameters"] = params
	if r.In != nil {
		op["requestBody"] = object{
			"required": true,
			"content":  object{"application/json": object{"schema": schema(r.In)}},
		}
	}
	if len(r.Kinds) > 0 {
		content := object{}
		for _, kind := range r.Kinds {
			content[kind] = object{"schema": object{"type": "string"}}
		}
		op["requestBody"] = object{"required": true, "content": content}
	}
	return op
}

// schema reads a JSON schema off a Go type.
func schema(t reflect.Type) object {
	switch {
	case t == reflect.TypeFor[decimal.Decimal]():
		return object{"type": "string", "format": "decimal"}
	case t == reflect.TypeFor[time.Time]():
		return object{"type": "string", "format": "date-time"}
	}
	switch t.Kind() {
	case reflect.Pointer:
		part := schema(t.Elem())
		if kind, ok := part["type"].(string); ok {
			part["type"] = []string{kind, "null"}
		}
		return part
	case reflect.Slice:
		return object{"type": []string{"array", "null"}, "items": schema(t.Elem())} // null for none
	case reflect.Map:
		return object{"type": "object", "additionalProperties": schema(t.Elem())}
	case reflect.Bool:
		return object{"type": "boolean"}
	case reflect.Float64:
		return object{"type": "number"}
	case reflect.Int, reflect.Int32, reflect.Int64, reflect.Uint8, reflect.Uint64:
		return object{"type": "integer"}
	case reflect.Struct:
		properties := object{}
		for i := range t.NumField() {
			if t.Field(i).Anonymous && t.Field(i).Tag.Get("json") == "" { // its fields are this one's
				for name, part := range schema(t.Field(i).Type)["properties"].(object) {
					properties[name] = part
				}
				continue
			}
			name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
			if name == "" {
				name = t.Field(i).Name
			}
			if name != "-" && t.Field(i).IsExported() {
				properties[name] = schema(t.Field(i).Type)
			}
		}
		return object{"type": "object", "properties": properties, "additionalProperties": false}
	}
	return object{"type": "string"}
}
