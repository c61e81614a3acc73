-- name: list_jobs()
SELECT j.number, j.title, j.created_at, c.name AS customer, v.make, v.model, v.year, v.body,
       d.id AS design_id, d.letter, d.version, d.current_number, r.document, r.created_at AS changed_at
FROM jobs j
JOIN customers c ON c.id = j.customer_id
JOIN vehicles v ON v.id = j.vehicle_id
JOIN designs d ON d.job_id = j.id AND d.letter = 'A'
JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
WHERE j.archived_at IS NULL
ORDER BY j.id DESC
LIMIT 200;

-- name: count_jobs()^
SELECT COUNT(*) AS count FROM jobs;

-- name: add_customer(name, phone)^
INSERT INTO customers (name, phone) VALUES (:name, :phone)
RETURNING id;

-- name: find_customer(name, phone)^
SELECT id FROM customers WHERE name = :name AND phone = :phone;

-- name: add_vehicle(customer_id, make, model, year, body)^
INSERT INTO vehicles (customer_id, make, model, year, body) VALUES (:customer_id, :make, :model, :year, :body)
RETURNING id;

-- name: add_job(customer_id, vehicle_id, title)^
INSERT INTO jobs (customer_id, vehicle_id, title) VALUES (:customer_id, :vehicle_id, :title)
RETURNING id;

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

-- name: update_customer(number, name, phone)!
UPDATE customers c JOIN jobs j ON j.customer_id = c.id SET c.name = :name, c.phone = :phone WHERE j.number = :number;
