-- name: list_photos(number)
SELECT photos.id, path, name, width_px, height_px, photos.created_at,
photos.archived_at IS NOT NULL AS away FROM photos
JOIN jobs ON jobs.id = photos.job_id
WHERE jobs.number = :number ORDER BY photos.id;

-- name: get_photo(number, id)^
SELECT photos.id, image, thumbnail FROM photos JOIN jobs ON jobs.id = photos.job_id
WHERE jobs.number = :number AND photos.id = :id;

-- name: count_photos(number)$
SELECT COUNT(*) FROM photos JOIN jobs ON jobs.id = photos.job_id WHERE jobs.number = :number AND photos.archived_at IS NULL;

-- name: add_photo(number, path, name, width_px, height_px, image, thumbnail)^
INSERT INTO photos (job_id, path, name, width_px, height_px, image, thumbnail)
SELECT id, :path, :name, :width_px, :height_px, :image, :thumbnail FROM jobs WHERE number = :number
RETURNING id;

-- name: put_photo_away(number, id)!
UPDATE photos JOIN jobs ON jobs.id = photos.job_id SET photos.archived_at = UTC_TIMESTAMP()
WHERE jobs.number = :number AND photos.id = :id AND photos.archived_at IS NULL;

-- name: bring_photo_back(number, id)!
UPDATE photos JOIN jobs ON jobs.id = photos.job_id SET photos.archived_at = NULL
WHERE jobs.number = :number AND photos.id = :id;
