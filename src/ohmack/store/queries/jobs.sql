-- name: list_jobs(shop_id, pattern, archived, standing, most, skip)
SELECT j.number, j.title, j.created_at, j.standing, c.name AS customer, v.make, v.model, v.year, v.body,
       d.id AS design_id, d.current_number, r.created_at AS changed_at,
       s.state, s.headline, s.detail, s.stops, s.watches, s.checked, s.picture
FROM jobs j
JOIN customers c ON c.id = j.customer_id
JOIN vehicles v ON v.id = j.vehicle_id
JOIN designs d ON d.job_id = j.id AND d.letter = 'A'
JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
LEFT JOIN summaries s ON s.design_id = d.id AND s.number = d.current_number
WHERE j.shop_id = :shop_id AND (j.archived_at IS NOT NULL) = :archived AND (:standing < 0 OR j.standing = :standing)
  AND (:pattern = '%%' OR CONCAT_WS(' ', j.number, j.title, c.name, c.phone, v.make, v.model, v.year, v.body) LIKE :pattern ESCAPE '|')
ORDER BY j.id DESC
LIMIT :most OFFSET :skip;

-- name: list_jobs_sorted(shop_id, pattern, archived, standing, sort, most, skip)
SELECT j.number, j.title, j.created_at, j.standing, c.name AS customer, v.make, v.model, v.year, v.body,
       d.id AS design_id, d.current_number, r.created_at AS changed_at,
       s.state, s.headline, s.detail, s.stops, s.watches, s.checked, s.picture
FROM jobs j
JOIN customers c ON c.id = j.customer_id
JOIN vehicles v ON v.id = j.vehicle_id
JOIN designs d ON d.job_id = j.id AND d.letter = 'A'
JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
LEFT JOIN summaries s ON s.design_id = d.id AND s.number = d.current_number
WHERE j.shop_id = :shop_id AND (j.archived_at IS NOT NULL) = :archived AND (:standing < 0 OR j.standing = :standing)
  AND (:pattern = '%%' OR CONCAT_WS(' ', j.number, j.title, c.name, c.phone, v.make, v.model, v.year, v.body) LIKE :pattern ESCAPE '|')
ORDER BY IF(:sort = 'customer', c.name, IF(:sort = 'car', CONCAT(v.make, ' ', v.model), '')),
  IF(:sort = 'changed', r.created_at, NULL) DESC, IF(:sort = 'oldest', j.id, 0), j.id DESC
LIMIT :most OFFSET :skip;

-- name: count_listed(shop_id, pattern, archived, standing)$
SELECT COUNT(*) FROM jobs j
JOIN customers c ON c.id = j.customer_id
JOIN vehicles v ON v.id = j.vehicle_id
WHERE j.shop_id = :shop_id AND (j.archived_at IS NOT NULL) = :archived AND (:standing < 0 OR j.standing = :standing)
  AND (:pattern = '%%' OR CONCAT_WS(' ', j.number, j.title, c.name, c.phone, v.make, v.model, v.year, v.body) LIKE :pattern ESCAPE '|');

-- name: count_standings(shop_id)
SELECT standing, archived_at IS NOT NULL AS away, COUNT(*) AS jobs FROM jobs WHERE shop_id = :shop_id GROUP BY 1, 2;

-- name: unsummarised(shop_id, most)
SELECT j.number, d.letter FROM designs d
JOIN jobs j ON j.id = d.job_id
LEFT JOIN summaries s ON s.design_id = d.id AND s.number = d.current_number
WHERE j.shop_id = :shop_id AND s.design_id IS NULL AND d.letter = 'A' ORDER BY j.archived_at IS NOT NULL, j.id DESC LIMIT :most;

-- name: put_summary(shop_id, design_id, number, state, headline, detail, stops, watches, checked, picture)!
INSERT INTO summaries (shop_id, design_id, number, state, headline, detail, stops, watches, checked, picture)
SELECT :shop_id, id, :number, :state, :headline, :detail, :stops, :watches, :checked, :picture
FROM designs WHERE shop_id = :shop_id AND id = :design_id AND current_number = :number
ON DUPLICATE KEY UPDATE number = VALUES(number), state = VALUES(state), headline = VALUES(headline), detail = VALUES(detail),
  stops = VALUES(stops), watches = VALUES(watches), checked = VALUES(checked), picture = VALUES(picture);

-- name: count_jobs(shop_id)^
SELECT COUNT(*) AS count FROM jobs WHERE shop_id = :shop_id;

-- name: add_customer(shop_id, name, phone)^
INSERT INTO customers (shop_id, name, phone) VALUES (:shop_id, :name, :phone)
RETURNING id;

-- name: find_customer(shop_id, name, phone)^
SELECT id FROM customers WHERE shop_id = :shop_id AND BINARY name = BINARY :name AND phone = :phone AND :phone <> '' LIMIT 1;

-- name: add_vehicle(shop_id, customer_id, make, model, year, body)^
INSERT INTO vehicles (shop_id, customer_id, make, model, year, body) VALUES (:shop_id, :customer_id, :make, :model, :year, :body)
RETURNING id;

-- name: add_job(shop_id, customer_id, vehicle_id, title, opened_with)^
INSERT INTO jobs (shop_id, customer_id, vehicle_id, title, opened_with) VALUES (:shop_id, :customer_id, :vehicle_id, :title, :opened_with)
RETURNING id;

-- name: job_opened_with(shop_id, opened_with)^
SELECT number FROM jobs WHERE shop_id = :shop_id AND opened_with = :opened_with;

-- name: count_on_from(shop_id, last_job)!
UPDATE shop SET last_job = :last_job
WHERE id = :shop_id AND NOT EXISTS (SELECT 1 FROM jobs WHERE shop_id = :shop_id);

-- name: take_number(shop_id)!
UPDATE shop SET last_job = last_job + 1 WHERE id = :shop_id;

-- name: last_number(shop_id)^
SELECT last_job FROM shop WHERE id = :shop_id;

-- name: number_job(shop_id, id, number)!
UPDATE jobs SET number = :number WHERE shop_id = :shop_id AND id = :id;

-- name: open_job_at(shop_id, number, created_at)!
UPDATE jobs SET created_at = :created_at WHERE shop_id = :shop_id AND number = :number;

-- name: archive_job(shop_id, number, archived)!
UPDATE jobs SET archived_at = IF(:archived, UTC_TIMESTAMP(), NULL) WHERE shop_id = :shop_id AND number = :number;

-- name: update_vehicle(shop_id, design_id, make, model, year, body)!
UPDATE vehicles v JOIN jobs j ON j.vehicle_id = v.id JOIN designs d ON d.job_id = j.id
SET v.make = :make, v.model = :model, v.year = :year, v.body = :body
WHERE d.shop_id = :shop_id AND d.id = :design_id;

-- name: put_standing(shop_id, design_id, standing)!
UPDATE designs SET standing = :standing WHERE shop_id = :shop_id AND id = :design_id;

-- name: job_stands_as_its_options(shop_id, design_id)!
UPDATE jobs j JOIN designs d ON d.job_id = j.id
SET j.standing = (SELECT MAX(o.standing) FROM designs o WHERE o.job_id = j.id)
WHERE d.shop_id = :shop_id AND d.id = :design_id;

-- name: update_title(shop_id, design_id, title)!
UPDATE jobs j JOIN designs d ON d.job_id = j.id SET j.title = :title WHERE d.shop_id = :shop_id AND d.id = :design_id;

-- name: update_customer(shop_id, number, version, name, phone)!
UPDATE customers c JOIN jobs j ON j.customer_id = c.id SET c.name = :name, c.phone = :phone, c.version = c.version + 1
WHERE j.shop_id = :shop_id AND j.number = :number AND c.version = :version;
