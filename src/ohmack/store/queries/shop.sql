-- name: get_shop()^
SELECT name, policy, version FROM shop WHERE id = 1;

-- name: add_shop(name, policy)!
INSERT INTO shop (id, name, policy) VALUES (1, :name, :policy);

-- name: update_policy(policy, version)!
UPDATE shop SET policy = :policy, version = version + 1 WHERE id = 1 AND version = :version;

-- name: list_parts(kind)
SELECT id, kind, maker, name, price, data FROM catalogue_parts
WHERE archived_at IS NULL AND (:kind = '' OR kind = :kind) ORDER BY kind, maker, name LIMIT 1000;

-- name: get_part(id)^
SELECT id, kind, maker, name, price, data FROM catalogue_parts WHERE id = :id;

-- name: add_part(kind, maker, name, price, data)^
INSERT INTO catalogue_parts (kind, maker, name, price, data) VALUES (:kind, :maker, :name, :price, :data)
RETURNING id;
