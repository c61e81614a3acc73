-- name: list_photos(shop_id, number)
SELECT photos.id, path, name, width_px, height_px, photos.created_at,
photos.archived_at IS NOT NULL AS away FROM photos
JOIN jobs ON jobs.id = photos.job_id
WHERE jobs.shop_id = :shop_id AND jobs.number = :number ORDER BY photos.id;

-- name: get_photo(shop_id, number, id)^
SELECT photos.id, image, thumbnail FROM photos JOIN jobs ON jobs.id = photos.job_id
WHERE jobs.shop_id = :shop_id AND jobs.number = :number AND photos.id = :id;

-- name: count_photos(shop_id, number)$
SELECT COUNT(*) FROM photos JOIN jobs ON jobs.id = photos.job_id WHERE jobs.shop_id = :shop_id AND jobs.number = :number AND photos.archived_at IS NULL;

-- name: add_photo(shop_id, number, path, name, width_px, height_px, image, thumbnail)^
INSERT INTO photos (shop_id, job_id, path, name, width_px, height_px, image, thumbnail)
SELECT shop_id, id, :path, :name, :width_px, :height_px, :image, :thumbnail FROM jobs WHERE shop_id = :shop_id AND number = :number
RETURNING id;

-- name: put_photo_away(shop_id, number, id)!
UPDATE photos JOIN jobs ON jobs.id = photos.job_id SET photos.archived_at = UTC_TIMESTAMP()
WHERE jobs.shop_id = :shop_id AND jobs.number = :number AND photos.id = :id AND photos.archived_at IS NULL;

-- name: bring_photo_back(shop_id, number, id)!
UPDATE photos JOIN jobs ON jobs.id = photos.job_id SET photos.archived_at = NULL
WHERE jobs.shop_id = :shop_id AND jobs.number = :number AND photos.id = :id;

-- name: bring_photo_in(shop_id, number, path, name, width_px, height_px, image, thumbnail, created_at, away)!
INSERT INTO photos (shop_id, job_id, path, name, width_px, height_px, image, thumbnail, created_at, archived_at)
SELECT shop_id, id, :path, :name, :width_px, :height_px, :image, :thumbnail, :created_at, IF(:away, UTC_TIMESTAMP(), NULL)
FROM jobs WHERE shop_id = :shop_id AND number = :number;
