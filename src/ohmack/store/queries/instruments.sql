-- name: list_instruments(shop_id)
SELECT kind, address, name FROM instruments WHERE shop_id = :shop_id ORDER BY kind;

-- name: put_instrument(shop_id, kind, address, name)!
INSERT INTO instruments (shop_id, kind, address, name) VALUES (:shop_id, :kind, :address, :name)
ON DUPLICATE KEY UPDATE address = VALUES(address), name = VALUES(name);

-- name: drop_instrument(shop_id, kind)!
DELETE FROM instruments WHERE shop_id = :shop_id AND kind = :kind;
