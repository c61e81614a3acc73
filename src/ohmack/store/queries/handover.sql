-- name: add_link(shop_id, person_id, design_id, number, selector, digest, ends_on)^
INSERT INTO customer_links (shop_id, design_id, number, person_id, selector, digest, ends_on)
SELECT d.shop_id, d.id, :number, :person_id, :selector, :digest, :ends_on FROM designs d
WHERE d.shop_id = :shop_id AND d.id = :design_id
RETURNING id;

-- name: list_links(shop_id, design_id)
SELECT id, number, ends_on, made_at, withdrawn_at IS NOT NULL AS withdrawn FROM customer_links
WHERE shop_id = :shop_id AND design_id = :design_id ORDER BY id DESC LIMIT 40;

-- name: links_by_selector(selector)
SELECT l.shop_id, l.person_id, l.design_id, l.number, l.digest, l.ends_on, l.withdrawn_at IS NOT NULL AS withdrawn
FROM customer_links l WHERE l.selector = :selector;

-- name: withdraw_link(shop_id, design_id, id)!
UPDATE customer_links SET withdrawn_at = UTC_TIMESTAMP()
WHERE shop_id = :shop_id AND design_id = :design_id AND id = :id AND withdrawn_at IS NULL;

-- name: add_pack(shop_id, design_id, number, total)^
INSERT INTO packs (shop_id, design_id, number, state, total)
SELECT d.shop_id, d.id, :number, 'making', :total FROM designs d WHERE d.shop_id = :shop_id AND d.id = :design_id
RETURNING id;

-- name: touch_pack(shop_id, id, done, doing)!
UPDATE packs SET done = :done, doing = :doing, touched_at = UTC_TIMESTAMP()
WHERE shop_id = :shop_id AND id = :id AND state = 'making';

-- name: end_pack(shop_id, id, state, doing, bytes, digest)!
UPDATE packs SET state = :state, doing = :doing, bytes = :bytes, digest = :digest, touched_at = UTC_TIMESTAMP(),
  done = IF(:state = 'made', total, done)
WHERE shop_id = :shop_id AND id = :id;

-- name: add_piece(shop_id, pack_id, place, piece)!
INSERT INTO pack_pieces (shop_id, pack_id, place, piece) VALUES (:shop_id, :pack_id, :place, :piece);

-- name: last_pack(shop_id, design_id)^
SELECT id, number, state, done, total, doing, bytes, digest, made_at,
  TIMESTAMPDIFF(SECOND, touched_at, UTC_TIMESTAMP()) AS quiet_s
FROM packs WHERE shop_id = :shop_id AND design_id = :design_id ORDER BY id DESC LIMIT 1;

-- name: get_pack(shop_id, design_id, id)^
SELECT id, number, state, done, total, doing, bytes, digest, made_at,
  TIMESTAMPDIFF(SECOND, touched_at, UTC_TIMESTAMP()) AS quiet_s
FROM packs WHERE shop_id = :shop_id AND design_id = :design_id AND id = :id;

-- name: get_piece(shop_id, pack_id, place)^
SELECT piece FROM pack_pieces WHERE shop_id = :shop_id AND pack_id = :pack_id AND place = :place;

-- name: drop_old_pieces(shop_id, design_id, id)!
DELETE p FROM pack_pieces p JOIN packs k ON k.id = p.pack_id
WHERE k.shop_id = :shop_id AND k.design_id = :design_id AND k.id < :id;

-- name: drop_old_packs(shop_id, design_id, id)!
DELETE FROM packs WHERE shop_id = :shop_id AND design_id = :design_id AND id < :id;

-- name: jobs_of_car(shop_id, number)
SELECT o.number, o.title, o.created_at, c.name AS customer FROM jobs j
JOIN jobs o ON o.vehicle_id = j.vehicle_id AND o.shop_id = j.shop_id
JOIN customers c ON c.id = o.customer_id
WHERE j.shop_id = :shop_id AND j.number = :number ORDER BY o.created_at, o.id;

-- name: jobs_of_like_cars(shop_id, number)
SELECT o.number, o.title, o.created_at, c.name AS customer FROM jobs j
JOIN vehicles v ON v.id = j.vehicle_id
JOIN vehicles w ON w.shop_id = v.shop_id AND w.make = v.make AND w.model = v.model AND w.id <> v.id
JOIN jobs o ON o.vehicle_id = w.id
JOIN customers c ON c.id = o.customer_id
WHERE j.shop_id = :shop_id AND j.number = :number
ORDER BY o.customer_id = j.customer_id DESC, o.id DESC LIMIT 12;

-- name: other_jobs_of_customer(shop_id, number)
SELECT o.number, o.title, o.created_at, c.name AS customer FROM jobs j
JOIN customers h ON h.id = j.customer_id
JOIN customers c ON c.shop_id = j.shop_id AND (c.id = h.id OR c.name = h.name AND c.erased_at IS NULL)
JOIN jobs o ON o.customer_id = c.id AND o.id <> j.id
WHERE j.shop_id = :shop_id AND j.number = :number
ORDER BY o.id DESC LIMIT 24;

-- name: owner_of(shop_id, number)^
SELECT customer_id, vehicle_id FROM jobs WHERE shop_id = :shop_id AND number = :number FOR UPDATE;

-- name: put_into_car(shop_id, number, vehicle_id)!
UPDATE jobs SET vehicle_id = :vehicle_id WHERE shop_id = :shop_id AND number = :number;

-- name: split_vehicle(shop_id, number)^
INSERT INTO vehicles (shop_id, customer_id, make, model, year, body)
SELECT j.shop_id, j.customer_id, v.make, v.model, v.year, v.body FROM jobs j JOIN vehicles v ON v.id = j.vehicle_id
WHERE j.shop_id = :shop_id AND j.number = :number
RETURNING id;

-- name: address_of_design(shop_id, design_id)^
SELECT j.number, d.letter FROM designs d JOIN jobs j ON j.id = d.job_id WHERE d.shop_id = :shop_id AND d.id = :design_id;
