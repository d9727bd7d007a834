-- +goose Up
-- how often what people edit was changed, so that none undoes what another did
ALTER TABLE delivery ADD revision BIGINT UNSIGNED NOT NULL DEFAULT 1;
ALTER TABLE product ADD revision BIGINT UNSIGNED NOT NULL DEFAULT 1;
-- what was asked under a key, so that another request under it is told from a repeated one
ALTER TABLE request_key ADD asked CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE request_key DROP asked;
ALTER TABLE product DROP revision;
ALTER TABLE delivery DROP revision;
