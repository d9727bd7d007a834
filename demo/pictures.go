package demo

import (
	"context"

	"itemrack/core/catalog"
	"itemrack/core/staff"
	"itemrack/demo/silhouette"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store/goods"
)

// makePictures gives every product its silhouette, in each of its colours.
func makePictures(ctx context.Context, s *deed.Shop, who staff.Actor) error {
	q := s.Store.Read(ctx)
	tiles := map[uint64]bool{} // categories that have a picture for their tile
	for page, more := 1, true; more; page++ {
		var rows []goods.ProductRow
		var err error
		if rows, more, err = goods.Products(q, goods.ListFilter{}, page); err != nil {
			return err
		}
		var ids []uint64
		for _, r := range rows {
			ids = append(ids, r.ID)
		}
		views, err := goods.ProductViews(q, ids, 0, s.Now())
		if err != nil {
			return err
		}
		for _, v := range views {
			data, err := pictured(ctx, s, who, *v)
			if err != nil {
				return err
			}
			if data != nil && !tiles[v.CategoryID] {
				tiles[v.CategoryID] = true
				if _, err := shopcatalog.CategoryPicture(deed.By(ctx, s, who, ""), v.CategoryID, v.Name+".png", data); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// pictured draws one product, and returns its last picture; nil for one that is not drawn.
func pictured(ctx context.Context, s *deed.Shop, who staff.Actor, p goods.ProductView) ([]byte, error) {
	outline, ok := silhouette.Of(p.Name)
	if !ok {
		return nil, nil
	}
	var last []byte
	colours := []catalog.Value{{}}
	axis := -1
	for i, a := range p.Axes {
		if catalog.IsColour(a.Name) {
			colours, axis = a.Values, i
		}
	}
	for _, colour := range colours {
		swatch, err := catalog.ParseSwatch(colour.Swatch)
		if err != nil {
			return last, err
		}
		if axis < 0 {
			swatch = plainColour(p)
		}
		data, err := silhouette.Draw(outline, swatch)
		if err != nil {
			return last, err
		}
		last = data
		kept, err := shopcatalog.AddPicture(deed.By(ctx, s, who, ""), p.ID, p.Name+".png", data)
		if err != nil {
			return last, err
		}
		for _, v := range p.Variants {
			if axis < 0 || v.Choice[axis] != colour.Name {
				continue
			}
			if _, err := shopcatalog.ChangePicture(deed.By(ctx, s, who, ""), p.ID, kept.ID,
				shopcatalog.PictureChange{Do: "variant", Variant: v.ID}); err != nil {
				return last, err
			}
		}
	}
	return last, nil
}

// plainColour is what a thing without colours is drawn in: that of its category.
func plainColour(p goods.ProductView) catalog.Swatch {
	for _, c := range categories {
		if path := c.above + catalog.PathMark + c.name; path == p.Category.Path || c.above == "" &&
			c.name == p.Category.Path {
			return catalog.Swatch{First: c.colour}
		}
	}
	return catalog.Swatch{First: "#54646F"}
}
