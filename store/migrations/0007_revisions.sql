-- +goose Up
-- how often what people edit was changed, so that none undoes what another did
ALTER TABLE delivery ADD revision BIGINT UNSIGNED NOT NULL DEFAULT 1;
ALTER TABLE product ADD revision BIGINT UNSIGNED NOT NULL DEFAULT 1;

-- +goose Down
ALTER TABLE product DROP revision;
ALTER TABLE delivery DROP revision;
