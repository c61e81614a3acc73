-- name: list_templates()
SELECT id, name, make, model, body, job_number, vehicle, created_at FROM vehicle_templates
WHERE archived_at IS NULL ORDER BY make, model, id DESC LIMIT 500;

-- name: get_template(id)^
SELECT id, name, make, model, body, job_number, vehicle, created_at FROM vehicle_templates
WHERE id = :id AND archived_at IS NULL;

-- name: add_template(name, make, model, body, job_number, vehicle)^
INSERT INTO vehicle_templates (name, make, model, body, job_number, vehicle)
VALUES (:name, :make, :model, :body, :job_number, :vehicle)
RETURNING id;
