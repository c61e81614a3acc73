-- name: list_jobs(pattern, archived, most, skip)
SELECT j.number, j.title, j.created_at, c.name AS customer, v.make, v.model, v.year, v.body,
       d.id AS design_id, d.current_number, r.created_at AS changed_at,
       s.state, s.headline, s.detail, s.stops, s.watches, s.checked, s.picture
FROM jobs j
JOIN customers c ON c.id = j.customer_id
JOIN vehicles v ON v.id = j.vehicle_id
JOIN designs d ON d.job_id = j.id AND d.letter = 'A'
JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
LEFT JOIN summaries s ON s.design_id = d.id AND s.number = d.current_number
WHERE (j.archived_at IS NOT NULL) = :archived
  AND CONCAT_WS(' ', j.number, j.title, c.name, c.phone, v.make, v.model, v.year, v.body) LIKE :pattern
ORDER BY j.id DESC
LIMIT :most OFFSET :skip;

-- name: count_listed(pattern, archived)$
SELECT COUNT(*) FROM jobs j
JOIN customers c ON c.id = j.customer_id
JOIN vehicles v ON v.id = j.vehicle_id
WHERE (j.archived_at IS NOT NULL) = :archived
  AND CONCAT_WS(' ', j.number, j.title, c.name, c.phone, v.make, v.model, v.year, v.body) LIKE :pattern;

-- name: unsummarised(most)
SELECT j.number, d.letter FROM designs d
JOIN jobs j ON j.id = d.job_id
LEFT JOIN summaries s ON s.design_id = d.id AND s.number = d.current_number
WHERE s.design_id IS NULL AND d.letter = 'A' ORDER BY j.archived_at IS NOT NULL, j.id DESC LIMIT :most;

-- name: put_summary(design_id, number, state, headline, detail, stops, watches, checked, picture)!
INSERT INTO summaries (design_id, number, state, headline, detail, stops, watches, checked, picture)
SELECT id, :number, :state, :headline, :detail, :stops, :watches, :checked, :picture
FROM designs WHERE id = :design_id AND current_number = :number
ON DUPLICATE KEY UPDATE number = VALUES(number), state = VALUES(state), headline = VALUES(headline), detail = VALUES(detail),
  stops = VALUES(stops), watches = VALUES(watches), checked = VALUES(checked), picture = VALUES(picture);

-- name: count_jobs()^
SELECT COUNT(*) AS count FROM jobs;

-- name: add_customer(name, phone)^
INSERT INTO customers (name, phone) VALUES (:name, :phone)
RETURNING id;

-- name: find_customer(name, phone)^
SELECT id FROM customers WHERE BINARY name = BINARY :name AND phone = :phone AND :phone <> '' LIMIT 1;

-- name: add_vehicle(customer_id, make, model, year, body)^
INSERT INTO vehicles (customer_id, make, model, year, body) VALUES (:customer_id, :make, :model, :year, :body)
RETURNING id;

-- name: add_job(customer_id, vehicle_id, title, opened_with)^
INSERT INTO jobs (customer_id, vehicle_id, title, opened_with) VALUES (:customer_id, :vehicle_id, :title, :opened_with)
RETURNING id;

-- name: job_opened_with(opened_with)^
SELECT number FROM jobs WHERE opened_with = :opened_with;

-- name: number_job(id, number)!
UPDATE jobs SET number = :number WHERE id = :id;

-- name: archive_job(number, archived)!
UPDATE jobs SET archived_at = IF(:archived, UTC_TIMESTAMP(), NULL) WHERE number = :number;

-- name: update_vehicle(design_id, make, model, year, body)!
UPDATE vehicles v JOIN jobs j ON j.vehicle_id = v.id JOIN designs d ON d.job_id = j.id
SET v.make = :make, v.model = :model, v.year = :year, v.body = :body
WHERE d.id = :design_id;

-- name: update_title(design_id, title)!
UPDATE jobs j JOIN designs d ON d.job_id = j.id SET j.title = :title WHERE d.id = :design_id;

-- name: update_customer(number, version, name, phone)!
UPDATE customers c JOIN jobs j ON j.customer_id = c.id SET c.name = :name, c.phone = :phone, c.version = c.version + 1
WHERE j.number = :number AND c.version = :version;
