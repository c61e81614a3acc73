-- name: clear_times(shop_id, design_id)!
DELETE FROM step_times WHERE shop_id = :shop_id AND design_id = :design_id;

-- name: add_time(shop_id, design_id, step, kind, minutes)!
INSERT INTO step_times (shop_id, design_id, step, kind, minutes) VALUES (:shop_id, :design_id, :step, :kind, :minutes)
ON DUPLICATE KEY UPDATE kind = VALUES(kind), minutes = VALUES(minutes);

-- name: list_times(shop_id, but_job, most)
SELECT t.kind, t.minutes, d.job_id, v.make, v.model FROM step_times t
JOIN designs d ON d.id = t.design_id AND d.letter = 'A'
JOIN jobs j ON j.id = d.job_id
JOIN vehicles v ON v.id = j.vehicle_id
WHERE t.shop_id = :shop_id AND j.number <> :but_job ORDER BY d.job_id DESC LIMIT :most;

-- name: clear_booking(shop_id, design_id)!
DELETE FROM bookings WHERE shop_id = :shop_id AND design_id = :design_id;

-- name: put_booking(shop_id, design_id, bay, starts, due)!
INSERT INTO bookings (shop_id, design_id, bay, starts, due) VALUES (:shop_id, :design_id, :bay, :starts, :due)
ON DUPLICATE KEY UPDATE bay = VALUES(bay), starts = VALUES(starts), due = VALUES(due);

-- name: list_bookings(shop_id, begins, ends, most)
SELECT j.number FROM bookings b
JOIN designs d ON d.id = b.design_id AND d.letter = 'A'
JOIN jobs j ON j.id = d.job_id
WHERE b.shop_id = :shop_id AND j.archived_at IS NULL
  AND (b.starts IS NULL OR (b.starts < :ends AND b.starts >= :begins))
ORDER BY b.starts IS NULL, b.starts, b.due IS NULL, b.due LIMIT :most;
