-- name: get_shop(shop_id)^
SELECT name, policy, version FROM shop WHERE id = :shop_id;

-- name: found_shop(shop_id, name, policy)!
UPDATE shop SET name = :name, policy = :policy WHERE id = :shop_id;

-- name: add_person(shop_id, name)^
INSERT INTO people (shop_id, name) VALUES (:shop_id, :name)
RETURNING id;

-- name: update_policy(shop_id, policy, version)!
UPDATE shop SET policy = :policy, version = version + 1 WHERE id = :shop_id AND version = :version;

-- name: list_parts(shop_id, kind, pattern, archived, most)
SELECT id, kind, maker, name, price, data, version, archived_at FROM catalogue_parts
WHERE shop_id = :shop_id AND (archived_at IS NOT NULL) = :archived AND (:kind = '' OR kind = :kind)
  AND CONCAT(maker, ' ', name, ' ', kind) LIKE :pattern ESCAPE '|' ORDER BY kind, maker, name LIMIT :most;

-- name: get_part(shop_id, id)^
SELECT id, kind, maker, name, price, data, version, archived_at FROM catalogue_parts WHERE shop_id = :shop_id AND id = :id;

-- name: add_part(shop_id, kind, maker, name, price, data)^
INSERT INTO catalogue_parts (shop_id, kind, maker, name, price, data) VALUES (:shop_id, :kind, :maker, :name, :price, :data)
RETURNING id;

-- name: count_parts(shop_id, kind, pattern, archived)$
SELECT COUNT(*) FROM catalogue_parts
WHERE shop_id = :shop_id AND (archived_at IS NOT NULL) = :archived AND (:kind = '' OR kind = :kind)
  AND CONCAT(maker, ' ', name, ' ', kind) LIKE :pattern ESCAPE '|';

-- name: names_of_parts(shop_id)
SELECT id, kind, maker, name, data, version FROM catalogue_parts WHERE shop_id = :shop_id AND archived_at IS NULL;

-- name: replace_part(shop_id, id, version, price, data)!
UPDATE catalogue_parts SET price = :price, data = :data, version = version + 1 WHERE shop_id = :shop_id AND id = :id AND version = :version;

-- name: change_part(shop_id, id, version, maker, name, price, data)!
UPDATE catalogue_parts SET maker = :maker, name = :name, price = :price, data = :data, version = version + 1
WHERE shop_id = :shop_id AND id = :id AND version = :version;

-- name: archive_part(shop_id, id, version)!
UPDATE catalogue_parts SET archived_at = CURRENT_TIMESTAMP, version = version + 1
WHERE shop_id = :shop_id AND id = :id AND version = :version AND archived_at IS NULL;

-- name: restore_part(shop_id, id, version)!
UPDATE catalogue_parts SET archived_at = NULL, version = version + 1
WHERE shop_id = :shop_id AND id = :id AND version = :version AND archived_at IS NOT NULL;
