-- name: get_design(shop_id, job_number, letter)^
SELECT d.id, d.job_id, d.letter, d.current_number, d.version, d.edition, r.parent_number, r.reason,
       j.number AS job_number, j.title, j.archived_at, c.name AS customer, c.phone, c.version AS customer_version,
       (SELECT MAX(k.number) FROM revisions k WHERE k.design_id = d.id AND k.parent_number = d.current_number)
         AS child_number
FROM designs d
JOIN jobs j ON j.id = d.job_id
JOIN customers c ON c.id = j.customer_id
JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
WHERE j.shop_id = :shop_id AND j.number = :job_number AND d.letter = :letter;

-- name: add_design(shop_id, job_id, letter)^
INSERT INTO designs (shop_id, job_id, letter, current_number) VALUES (:shop_id, :job_id, :letter, 1)
RETURNING id;

-- name: claim_design(shop_id, id, version)!
UPDATE designs SET version = version + 1 WHERE shop_id = :shop_id AND id = :id AND version = :version;

-- name: point_design(shop_id, id, number)!
UPDATE designs SET current_number = :number WHERE shop_id = :shop_id AND id = :id;

-- name: pointer(shop_id, id)^
SELECT d.current_number, r.parent_number,
       (SELECT MAX(k.number) FROM revisions k WHERE k.design_id = d.id AND k.parent_number = d.current_number)
         AS child_number,
       (SELECT MAX(k.number) FROM revisions k WHERE k.design_id = d.id) AS last_number
FROM designs d JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
WHERE d.shop_id = :shop_id AND d.id = :id;

-- name: add_revision(shop_id, person_id, design_id, number, parent_number, document, reason)!
INSERT INTO revisions (shop_id, person_id, design_id, number, parent_number, document, reason)
VALUES (:shop_id, :person_id, :design_id, :number, :parent_number, :document, :reason);

-- name: get_revision(shop_id, design_id, number)^
SELECT number, parent_number, document, reason, created_at FROM revisions
WHERE shop_id = :shop_id AND design_id = :design_id AND number = :number;

-- name: list_revisions(shop_id, design_id)
SELECT r.number, r.parent_number, r.reason, IF(r.author <> '', r.author, p.name) AS author, r.created_at
FROM revisions r JOIN people p ON p.id = r.person_id
WHERE r.shop_id = :shop_id AND r.design_id = :design_id ORDER BY r.number DESC LIMIT 500;

-- name: list_options(shop_id, job_number)
SELECT d.letter, d.id, d.version, d.current_number FROM designs d JOIN jobs j ON j.id = d.job_id
WHERE j.shop_id = :shop_id AND j.number = :job_number ORDER BY d.letter;

-- name: job_of(shop_id, job_number)^
SELECT id FROM jobs WHERE shop_id = :shop_id AND number = :job_number FOR UPDATE;

-- name: where_it_stands(shop_id, job_number, letter)^
SELECT d.id, d.version, d.current_number, r.parent_number, r.reason FROM designs d
JOIN jobs j ON j.id = d.job_id JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
WHERE j.shop_id = :shop_id AND j.number = :job_number AND d.letter = :letter;
