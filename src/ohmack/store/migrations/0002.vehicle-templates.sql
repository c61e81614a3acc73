-- A surveyed vehicle kept for the next car of its kind.

CREATE TABLE IF NOT EXISTS vehicle_templates (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(160) NOT NULL,
  make VARCHAR(120) NOT NULL,
  model VARCHAR(120) NOT NULL,
  body VARCHAR(20) NOT NULL,
  job_number VARCHAR(12) NOT NULL,
  vehicle JSON NOT NULL CHECK (JSON_VALID(vehicle)),
  created_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  archived_at DATETIME NULL,
  KEY vehicle_templates_kind (make, model)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;
