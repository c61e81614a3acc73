-- name: list_customers(shop_id, pattern, most, skip)
SELECT c.id, c.name, c.phone, c.note,
  (SELECT COUNT(*) FROM jobs j WHERE j.customer_id = c.id) AS jobs,
  (SELECT COUNT(DISTINCT j.vehicle_id) FROM jobs j WHERE j.customer_id = c.id) AS cars,
  (SELECT MAX(j.created_at) FROM jobs j WHERE j.customer_id = c.id) AS last_at
FROM customers c
WHERE c.shop_id = :shop_id AND c.merged_into IS NULL AND CONCAT(c.name, ' ', c.phone) LIKE :pattern ESCAPE '|'
ORDER BY c.name, c.id LIMIT :most OFFSET :skip;

-- name: count_customers(shop_id, pattern)$
SELECT COUNT(*) FROM customers c
WHERE c.shop_id = :shop_id AND c.merged_into IS NULL AND CONCAT(c.name, ' ', c.phone) LIKE :pattern ESCAPE '|';

-- name: get_customer(shop_id, id)^
SELECT id, name, phone, note, version, merged_into, erased_at FROM customers WHERE shop_id = :shop_id AND id = :id;

-- name: hold_customer(shop_id, id)^
SELECT id, name, phone FROM customers
WHERE shop_id = :shop_id AND id = :id AND merged_into IS NULL FOR UPDATE;

-- name: change_customer(shop_id, id, version, name, phone, note)!
UPDATE customers SET name = :name, phone = :phone, note = :note, version = version + 1
WHERE shop_id = :shop_id AND id = :id AND version = :version AND merged_into IS NULL;

-- name: customers_jobs(shop_id, id)
SELECT j.number, j.title, j.created_at, j.standing, j.archived_at IS NOT NULL AS away, j.vehicle_id
FROM jobs j WHERE j.shop_id = :shop_id AND j.customer_id = :id ORDER BY j.id DESC;

-- name: customers_cars(shop_id, id)
SELECT v.id, v.make, v.model, v.year, v.body, v.plate, v.chassis, v.version FROM vehicles v
WHERE v.shop_id = :shop_id AND v.id IN (SELECT j.vehicle_id FROM jobs j WHERE j.shop_id = :shop_id AND j.customer_id = :id)
ORDER BY v.id DESC;

-- name: change_car(shop_id, id, version, plate, chassis)!
UPDATE vehicles SET plate = :plate, chassis = :chassis, version = version + 1
WHERE shop_id = :shop_id AND id = :id AND version = :version;

-- name: get_car(shop_id, id)^
SELECT id, make, model, year, body, plate, chassis, version FROM vehicles WHERE shop_id = :shop_id AND id = :id;

-- name: hand_over_jobs(shop_id, id, into_id)!
UPDATE jobs SET customer_id = :into_id WHERE shop_id = :shop_id AND customer_id = :id;

-- name: hand_over_cars(shop_id, id, into_id)!
UPDATE vehicles SET customer_id = :into_id WHERE shop_id = :shop_id AND customer_id = :id;

-- name: mark_merged(shop_id, id, into_id)!
UPDATE customers SET merged_into = :into_id, name = '', phone = '', note = '', version = version + 1
WHERE shop_id = :shop_id AND id = :id;

-- name: mark_erased(shop_id, id, name)!
UPDATE customers SET erased_at = UTC_TIMESTAMP(), name = :name, phone = '', note = '', version = version + 1
WHERE shop_id = :shop_id AND id = :id;

-- name: clear_plates(shop_id, id)!
UPDATE vehicles SET plate = '', chassis = '', version = version + 1 WHERE shop_id = :shop_id AND customer_id = :id;

-- name: designs_of_customer(shop_id, id)
SELECT d.id FROM designs d JOIN jobs j ON j.id = d.job_id
WHERE d.shop_id = :shop_id AND j.customer_id = :id ORDER BY d.id FOR UPDATE;

-- name: documents_of(shop_id, design_id)
SELECT number, document, reason FROM revisions WHERE shop_id = :shop_id AND design_id = :design_id ORDER BY number;

-- name: rewrite_document(shop_id, design_id, number, document, reason)!
UPDATE revisions SET document = :document, reason = :reason
WHERE shop_id = :shop_id AND design_id = :design_id AND number = :number;

-- name: title_as_rewritten(shop_id, design_id)!
UPDATE jobs j JOIN designs d ON d.job_id = j.id AND d.letter = 'A'
JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
SET j.title = COALESCE(JSON_VALUE(r.document, '$.title'), '')
WHERE d.shop_id = :shop_id AND d.id = :design_id;

-- name: new_edition(shop_id, design_id)!
UPDATE designs SET edition = edition + 1, version = version + 1 WHERE shop_id = :shop_id AND id = :design_id;

-- name: drop_pieces_of(shop_id, design_id)!
DELETE p FROM pack_pieces p JOIN packs k ON k.id = p.pack_id WHERE k.shop_id = :shop_id AND k.design_id = :design_id;

-- name: drop_packs_of(shop_id, design_id)!
DELETE FROM packs WHERE shop_id = :shop_id AND design_id = :design_id;

-- name: withdraw_links_of(shop_id, design_id)!
UPDATE customer_links SET withdrawn_at = COALESCE(withdrawn_at, UTC_TIMESTAMP())
WHERE shop_id = :shop_id AND design_id = :design_id;

-- name: templates_of_customer(shop_id, id)
SELECT t.id, t.vehicle FROM vehicle_templates t JOIN jobs j ON j.shop_id = t.shop_id AND j.number = t.job_number
WHERE t.shop_id = :shop_id AND j.customer_id = :id;

-- name: rewrite_template(shop_id, id, vehicle)!
UPDATE vehicle_templates SET vehicle = :vehicle WHERE shop_id = :shop_id AND id = :id;

-- name: links_of_customer(shop_id, id)
SELECT l.made_at, l.ends_on, l.withdrawn_at FROM customer_links l JOIN designs d ON d.id = l.design_id
JOIN jobs j ON j.id = d.job_id WHERE l.shop_id = :shop_id AND j.customer_id = :id ORDER BY l.id;

-- name: photos_of_customer(shop_id, id)
SELECT p.id, j.number, p.name, p.path, p.created_at FROM photos p JOIN jobs j ON j.id = p.job_id
WHERE p.shop_id = :shop_id AND j.customer_id = :id ORDER BY p.id;
