-- name: get_entry(shop_id, kind, ref)^
SELECT id, title, line, address, words FROM search_entries WHERE shop_id = :shop_id AND kind = :kind AND ref = :ref;

-- name: add_entry(shop_id, kind, ref, title, line, address, words)^
INSERT INTO search_entries (shop_id, kind, ref, title, line, address, words)
VALUES (:shop_id, :kind, :ref, :title, :line, :address, :words)
ON DUPLICATE KEY UPDATE title = :title, line = :line, address = :address, words = :words
RETURNING id;

-- name: change_entry(shop_id, id, title, line, address, words)!
UPDATE search_entries SET title = :title, line = :line, address = :address, words = :words
WHERE shop_id = :shop_id AND id = :id;

-- name: clear_words(shop_id, entry_id)!
DELETE FROM search_words WHERE shop_id = :shop_id AND entry_id = :entry_id;

-- name: drop_entry(shop_id, id)!
DELETE FROM search_entries WHERE shop_id = :shop_id AND id = :id;

-- name: add_words(shop_id, word, entry_id)*!
INSERT INTO search_words (shop_id, word, entry_id) VALUES (:shop_id, :word, :entry_id)
ON DUPLICATE KEY UPDATE entry_id = VALUES(entry_id);

-- name: count_word(shop_id, word, past, most)$
SELECT COUNT(*) FROM (
  SELECT 1 FROM search_words WHERE shop_id = :shop_id AND word >= :word AND word < :past LIMIT :most
) AS near;

-- name: entries_by_word(shop_id, word, past, most, kind, w1, w2, w3, w4, w5, w6, found)
SELECT e.kind, e.ref, e.title, e.line, e.address, e.id FROM (
  SELECT DISTINCT entry_id FROM search_words WHERE shop_id = :shop_id AND word >= :word AND word < :past LIMIT :most
) AS near JOIN search_entries e ON e.id = near.entry_id
WHERE e.shop_id = :shop_id AND e.words LIKE :w1 AND e.words LIKE :w2 AND e.words LIKE :w3 AND e.words LIKE :w4 AND e.words LIKE :w5 AND e.words LIKE :w6
  AND (:kind = '' OR e.kind = :kind)
ORDER BY e.id DESC LIMIT :found;

-- name: entries_by_text(shop_id, text, kind, found)
SELECT kind, ref, title, line, address, id FROM search_entries
WHERE MATCH (words) AGAINST (:text IN BOOLEAN MODE) AND shop_id = :shop_id AND (:kind = '' OR kind = :kind)
ORDER BY id DESC LIMIT :found;

-- name: depth_of_newest(shop_id, deep)^
SELECT id FROM search_entries FORCE INDEX (entries_newest) WHERE shop_id = :shop_id ORDER BY id DESC LIMIT 1 OFFSET :deep;

-- name: newest_entries(shop_id, since, kind, w1, w2, w3, w4, w5, w6, found)
SELECT kind, ref, title, line, address, id FROM search_entries FORCE INDEX (entries_newest)
WHERE shop_id = :shop_id AND id >= :since
  AND words LIKE :w1 AND words LIKE :w2 AND words LIKE :w3 AND words LIKE :w4 AND words LIKE :w5 AND words LIKE :w6
  AND (:kind = '' OR kind = :kind)
ORDER BY id DESC LIMIT :found;

-- name: jobs_not_searched(shop_id, most)
SELECT j.number FROM jobs j LEFT JOIN search_entries e ON e.shop_id = j.shop_id AND e.kind = 'job' AND e.ref = j.id
WHERE j.shop_id = :shop_id AND e.id IS NULL ORDER BY j.id DESC LIMIT :most;

-- name: parts_not_searched(shop_id, most)
SELECT p.id FROM catalogue_parts p
LEFT JOIN search_entries e ON e.shop_id = p.shop_id AND e.kind = 'part' AND e.ref = p.id
WHERE p.shop_id = :shop_id AND e.id IS NULL LIMIT :most;

-- name: customers_not_searched(shop_id, most)
SELECT c.id FROM customers c
LEFT JOIN search_entries e ON e.shop_id = c.shop_id AND e.kind = 'customer' AND e.ref = c.id
WHERE c.shop_id = :shop_id AND c.merged_into IS NULL AND e.id IS NULL LIMIT :most;

-- name: job_to_search(shop_id, number)^
SELECT j.id, j.number, j.title, c.name AS customer, c.phone, c.id AS customer_id, v.id AS vehicle_id, v.make, v.model,
  v.year, v.body, v.plate, v.chassis
FROM jobs j JOIN customers c ON c.id = j.customer_id JOIN vehicles v ON v.id = j.vehicle_id
WHERE j.shop_id = :shop_id AND j.number = :number;

-- name: jobs_of_customer(shop_id, customer_id)
SELECT number FROM jobs WHERE shop_id = :shop_id AND customer_id = :customer_id ORDER BY id DESC;

-- name: jobs_of_vehicle(shop_id, vehicle_id)
SELECT number FROM jobs WHERE shop_id = :shop_id AND vehicle_id = :vehicle_id ORDER BY id DESC;
