-- name: list_templates(shop_id)
SELECT id, name, make, model, body, job_number, vehicle, own_steps, created_at FROM vehicle_templates
WHERE shop_id = :shop_id AND archived_at IS NULL ORDER BY make, model, id DESC LIMIT 500;

-- name: get_template(shop_id, id)^
SELECT id, name, make, model, body, job_number, vehicle, own_steps, created_at FROM vehicle_templates
WHERE shop_id = :shop_id AND id = :id AND archived_at IS NULL;

-- name: add_template(shop_id, name, make, model, body, job_number, vehicle, own_steps)^
INSERT INTO vehicle_templates (shop_id, name, make, model, body, job_number, vehicle, own_steps)
VALUES (:shop_id, :name, :make, :model, :body, :job_number, :vehicle, :own_steps)
RETURNING id;
