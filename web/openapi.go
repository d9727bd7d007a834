package web

import (
	"encoding/json"
	"reflect"
	"regexp"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/shopspring/decimal"

	"itemrack/core/label"
	"itemrack/core/sale"
	"itemrack/sheet"
	"itemrack/shop"
)

// bodies are what the API's deeds read, by method and path; their schemas are
// read off the Go types.
var bodies = map[string]any{
	"POST /products": shop.NewProduct{}, "POST /products/:id/values": shop.Extension{}, "POST /products/:id/prices": shop.PriceChange{},
	"POST /labels": shop.LabelRequest{}, "PUT /label-templates/:code": label.Template{}, "PUT /products/:id": shop.ProductFacts{}, "POST /products/:id/successor": shop.Successor{}, "POST /products/:id/values/change": shop.ValueChange{},
	"POST /products/:id/cells": shop.CellChange{}, "POST /products/:id/packs": shop.PackInput{}, "PUT /products/:id/packs/:pack": shop.PackInput{}, "PATCH /products/:id/pictures/:picture": shop.PictureChange{},
	"POST /products/:id/prices/drop-later": shop.DropPrice{}, "POST /products/bulk": bulkInput{}, "POST /views": shop.ViewInput{}, "POST /prices/suggest": shop.PriceQuestion{},
	"POST /price-lists": shop.ListInput{}, "PUT /price-lists/:id": shop.ListInput{}, "POST /tax-classes/:id/rates": shop.RateInput{}, "PUT /suppliers/:id/defaults": shop.SupplierDefaults{},
	"POST /categories": shop.CategoryInput{}, "PUT /categories/:id": shop.CategoryInput{}, "POST /values": setInput{}, "PUT /values/:id": shop.ValueInSet{}, "PUT /settings": shop.SettingsInput{}, "POST /practice/end": shop.EndPractice{},
	"POST /barcode-ranges": shop.RangeInput{}, "POST /variants/:id/barcodes": shop.BarcodeInput{}, "POST /imports/:id/run": shop.RunImport{}, "POST /opening-stock": shop.OpenStockInput{}, "POST /opening-stock/scan": shop.OpeningScan{},
	"PUT /products/:id/parts": struct {
		Parts []shop.PartInput `json:"parts"`
	}{},
	"POST /categories/:id/merge": struct {
		Into uint64 `json:"into"`
	}{},
	"PUT /barcode-ranges/:id": struct {
		Open bool `json:"open"`
	}{},
	"PUT /imports/:id/columns": struct {
		Columns []string `json:"columns"`
	}{},
	"PUT /registers/:id/basket/list": struct {
		List uint64 `json:"price_list_id"`
	}{}, "POST /deliveries": shop.DeliveryInput{}, "POST /deliveries/:id/scan": shop.DeliveryScan{}, "PUT /deliveries/:id": shop.DeliveryInput{},
	"POST /registers/:id/open": struct {
		Float string `json:"float"`
	}{},
	"POST /registers/:id/cash-up": struct {
		Counted []sale.Denomination `json:"counted"`
	}{},
	"POST /registers/:id/basket/lines": shop.BasketAdd{}, "PATCH /registers/:id/basket/lines/:line": shop.BasketChange{},
	"POST /sales": shop.SaleInput{}, "POST /returns": shop.ReturnInput{}, "POST /condition-changes": shop.ChangeInput{},
	"POST /kits/make-up": shop.KitInput{}, "POST /kits/break-up": shop.KitInput{}, "POST /counts": shop.CountPlan{}, "POST /counts/:id/events": shop.CountInput{}, "POST /counts/:id/settle": shop.SettleInput{},
	"POST /counts/:id/state": struct {
		State string `json:"state"`
	}{},
	"POST /documents/:number/reverse": struct {
		Note string `json:"note"`
	}{},
	"PUT /devices/:name": struct {
		State string `json:"state"`
	}{},
}

// rawBodies are what deeds read that is no JSON.
var rawBodies = map[string][]string{"POST /catalog/import": lists, "POST /imports": lists, "POST /imports/:id/pictures": {"application/zip"}, "POST /products/:id/pictures": pictures, "POST /categories/:id/picture": pictures}

var (
	lists    = []string{"text/csv", sheet.XLSX.Type()}
	pictures = []string{"image/jpeg", "image/png", "image/webp"}
)

var pathParam = regexp.MustCompile(`:(\w+)`)

// object is a JSON object of the document.
type object = map[string]any

// openAPI describes every route of the API, from the table of routes itself.
func (s *Server) openAPI(c fiber.Ctx) error {
	paths := object{}
	for _, r := range apiRoutes {
		name := pathParam.ReplaceAllString(r.path, "{$1}")
		item, ok := paths[name].(object)
		if !ok {
			item = object{}
			paths[name] = item
		}
		item[strings.ToLower(r.method)] = operation(r)
	}
	document := object{
		"openapi": "3.1.0",
		"info":    object{"title": "Item Rack", "version": "1", "description": "Every deed of the shop. Amounts and quantities are decimals as text."},
		"servers": []object{{"url": "/api/v1"}},
		"paths":   paths,
		"components": object{
			"securitySchemes": object{"token": object{"type": "http", "scheme": "bearer"}},
			"schemas":         object{"Problem": schema(reflect.TypeFor[problem]())},
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

func operation(r route) object {
	op := object{"summary": r.doc, "description": "Deed: " + string(r.deed),
		"responses": object{
			"200":     object{"description": "Done", "content": object{"application/json": object{"schema": object{}}}},
			"default": object{"description": "Refused (RFC 9457)", "content": object{"application/problem+json": object{"schema": object{"$ref": "#/components/schemas/Problem"}}}},
		}}
	params := []object{}
	for _, m := range pathParam.FindAllStringSubmatch(r.path, -1) {
		params = append(params, object{"name": m[1], "in": "path", "required": true, "schema": object{"type": "string"}})
	}
	if r.method != fiber.MethodGet {
		params = append(params, object{"name": "Idempotency-Key", "in": "header", "description": "The same key gets the first answer and does nothing twice", "schema": object{"type": "string", "maxLength": 100}})
	}
	op["parameters"] = params
	if body, ok := bodies[r.method+" "+r.path]; ok {
		op["requestBody"] = object{"required": true, "content": object{"application/json": object{"schema": schema(reflect.TypeOf(body))}}}
	}
	if kinds := rawBodies[r.method+" "+r.path]; len(kinds) > 0 {
		content := object{}
		for _, kind := range kinds {
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
		return schema(t.Elem())
	case reflect.Slice:
		return object{"type": "array", "items": schema(t.Elem())}
	case reflect.Map:
		return object{"type": "object", "additionalProperties": schema(t.Elem())}
	case reflect.Bool:
		return object{"type": "boolean"}
	case reflect.Float64:
		return object{"type": "number"}
	case reflect.Int, reflect.Int64, reflect.Uint64:
		return object{"type": "integer"}
	case reflect.Struct:
		properties := object{}
		for i := range t.NumField() {
			if t.Field(i).Anonymous { // its fields are this one's
				for name, part := range schema(t.Field(i).Type)["properties"].(object) {
					properties[name] = part
				}
				continue
			}
			name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
			if name != "" {
				properties[name] = schema(t.Field(i).Type)
			}
		}
		return object{"type": "object", "properties": properties, "additionalProperties": false}
	}
	return object{"type": "string"}
}
