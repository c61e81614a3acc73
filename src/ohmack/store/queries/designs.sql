-- name: get_design(job_number, letter)^
SELECT d.id, d.job_id, d.letter, d.current_number, d.version, r.parent_number, r.reason,
       j.number AS job_number, j.title, j.archived_at, c.name AS customer, c.phone, c.version AS customer_version,
       (SELECT MAX(k.number) FROM revisions k WHERE k.design_id = d.id AND k.parent_number = d.current_number)
         AS child_number
FROM designs d
JOIN jobs j ON j.id = d.job_id
JOIN customers c ON c.id = j.customer_id
JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
WHERE j.number = :job_number AND d.letter = :letter;

-- name: add_design(job_id, letter)^
INSERT INTO designs (job_id, letter, current_number) VALUES (:job_id, :letter, 1)
RETURNING id;

-- name: claim_design(id, version)!
UPDATE designs SET version = version + 1 WHERE id = :id AND version = :version;

-- name: point_design(id, number)!
UPDATE designs SET current_number = :number WHERE id = :id;

-- name: pointer(id)^
SELECT d.current_number, r.parent_number,
       (SELECT MAX(k.number) FROM revisions k WHERE k.design_id = d.id AND k.parent_number = d.current_number)
         AS child_number,
       (SELECT MAX(k.number) FROM revisions k WHERE k.design_id = d.id) AS last_number
FROM designs d JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
WHERE d.id = :id;

-- name: add_revision(design_id, number, parent_number, document, reason, author)!
INSERT INTO revisions (design_id, number, parent_number, document, reason, author)
VALUES (:design_id, :number, :parent_number, :document, :reason, :author);

-- name: get_revision(design_id, number)^
SELECT number, parent_number, document, reason, author, created_at FROM revisions
WHERE design_id = :design_id AND number = :number;

-- name: list_revisions(design_id)
SELECT number, parent_number, reason, author, created_at FROM revisions
WHERE design_id = :design_id ORDER BY number DESC LIMIT 500;

-- name: list_options(job_number)
SELECT d.letter, d.id, d.version, d.current_number FROM designs d JOIN jobs j ON j.id = d.job_id
WHERE j.number = :job_number ORDER BY d.letter;

-- name: job_of(job_number)^
SELECT id FROM jobs WHERE number = :job_number FOR UPDATE;

-- name: where_it_stands(job_number, letter)^
SELECT d.id, d.version, d.current_number, r.parent_number, r.reason FROM designs d
JOIN jobs j ON j.id = d.job_id JOIN revisions r ON r.design_id = d.id AND r.number = d.current_number
WHERE j.number = :job_number AND d.letter = :letter;
