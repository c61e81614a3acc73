-- name: get_shop()^
SELECT name, policy, version FROM shop WHERE id = 1;

-- name: add_shop(name, policy)!
INSERT INTO shop (id, name, policy) VALUES (1, :name, :policy);

-- name: update_policy(policy, version)!
UPDATE shop SET policy = :policy, version = version + 1 WHERE id = 1 AND version = :version;

-- name: list_parts(kind, pattern, archived, most)
SELECT id, kind, maker, name, price, data, version, archived_at FROM catalogue_parts
WHERE (archived_at IS NOT NULL) = :archived AND (:kind = '' OR kind = :kind)
  AND CONCAT(maker, ' ', name, ' ', kind) LIKE :pattern ORDER BY kind, maker, name LIMIT :most;

-- name: get_part(id)^
SELECT id, kind, maker, name, price, data, version, archived_at FROM catalogue_parts WHERE id = :id;

-- name: add_part(kind, maker, name, price, data)^
INSERT INTO catalogue_parts (kind, maker, name, price, data) VALUES (:kind, :maker, :name, :price, :data)
RETURNING id;

-- name: count_parts(kind, pattern, archived)$
SELECT COUNT(*) FROM catalogue_parts
WHERE (archived_at IS NOT NULL) = :archived AND (:kind = '' OR kind = :kind)
  AND CONCAT(maker, ' ', name, ' ', kind) LIKE :pattern;

-- name: names_of_parts()
SELECT id, kind, maker, name, data, version FROM catalogue_parts WHERE archived_at IS NULL;

-- name: replace_part(id, version, price, data)!
UPDATE catalogue_parts SET price = :price, data = :data, version = version + 1 WHERE id = :id AND version = :version;

-- name: change_part(id, version, maker, name, price, data)!
UPDATE catalogue_parts SET maker = :maker, name = :name, price = :price, data = :data, version = version + 1
WHERE id = :id AND version = :version;

-- name: archive_part(id, version)!
UPDATE catalogue_parts SET archived_at = CURRENT_TIMESTAMP, version = version + 1
WHERE id = :id AND version = :version AND archived_at IS NULL;

-- name: restore_part(id, version)!
UPDATE catalogue_parts SET archived_at = NULL, version = version + 1
WHERE id = :id AND version = :version AND archived_at IS NOT NULL;
