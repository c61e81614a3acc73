-- name: count_who_sign_in()$
SELECT COUNT(*) FROM people WHERE login IS NOT NULL AND password_hash IS NOT NULL;

-- name: hold_shop(shop_id)^
SELECT id FROM shop WHERE id = :shop_id FOR UPDATE;

-- name: add_shop(name, policy)^
INSERT INTO shop (name, policy) VALUES (:name, :policy)
RETURNING id;

-- name: rename_shop(shop_id, name)!
UPDATE shop SET name = :name WHERE id = :shop_id;

-- name: list_shops()
SELECT id FROM shop ORDER BY id;

-- name: limits_of(shop_id)^
SELECT idle_minutes, total_hours FROM shop WHERE id = :shop_id;

-- name: set_limits(shop_id, idle_minutes, total_hours)!
UPDATE shop SET idle_minutes = :idle_minutes, total_hours = :total_hours WHERE id = :shop_id;

-- name: add_person_who_signs_in(shop_id, name, login, role)^
INSERT INTO people (shop_id, name, login, role) VALUES (:shop_id, :name, :login, :role)
RETURNING id;

-- name: give_login(shop_id, id, name, login, role)!
UPDATE people SET name = :name, login = :login, role = :role, version = version + 1
WHERE shop_id = :shop_id AND id = :id AND login IS NULL;

-- name: list_people(shop_id)
SELECT p.id, p.name, p.login, p.role, p.version, p.totp_secret IS NOT NULL AS second_factor,
  p.password_hash IS NOT NULL AS joined, p.put_away_at IS NOT NULL AS away,
  (SELECT MAX(s.seen_at) FROM sessions s WHERE s.person_id = p.id) AS seen_at
FROM people p WHERE p.shop_id = :shop_id AND p.login IS NOT NULL
ORDER BY p.put_away_at IS NOT NULL, FIELD(p.role, 'owner', 'installer', 'front desk', 'guest'), p.name, p.id;

-- name: get_person(shop_id, id)^
SELECT p.id, p.name, p.login, p.role, p.version, p.totp_secret IS NOT NULL AS second_factor,
  p.password_hash IS NOT NULL AS joined, p.put_away_at IS NOT NULL AS away, NULL AS seen_at
FROM people p WHERE p.shop_id = :shop_id AND p.id = :id AND p.login IS NOT NULL;

-- name: change_person(shop_id, id, version, name, role, away)!
UPDATE people SET name = :name, role = :role, version = version + 1,
  put_away_at = IF(:away, COALESCE(put_away_at, UTC_TIMESTAMP()), NULL)
WHERE shop_id = :shop_id AND id = :id AND version = :version AND login IS NOT NULL;

-- name: count_owners(shop_id)$
SELECT COUNT(*) FROM people
WHERE shop_id = :shop_id AND role = 'owner' AND put_away_at IS NULL AND login IS NOT NULL AND password_hash IS NOT NULL;

-- name: secrets_of(shop_id, id)^
SELECT login, password_hash, totp_secret, totp_pending, totp_step FROM people WHERE shop_id = :shop_id AND id = :id;

-- name: secrets_by_login(login)^
SELECT p.id, p.shop_id, p.password_hash, p.totp_secret IS NOT NULL AS second_factor, s.total_hours
FROM people p JOIN shop s ON s.id = p.shop_id
WHERE p.login = :login AND p.put_away_at IS NULL;

-- name: set_password(shop_id, id, password_hash)!
UPDATE people SET password_hash = :password_hash, version = version + 1 WHERE shop_id = :shop_id AND id = :id;

-- name: rehash_password(id, before, password_hash)!
UPDATE people SET password_hash = :password_hash WHERE id = :id AND password_hash = :before;

-- name: begin_second_factor(shop_id, id, secret)!
UPDATE people SET totp_pending = :secret WHERE shop_id = :shop_id AND id = :id;

-- name: confirm_second_factor(shop_id, id, step)!
UPDATE people SET totp_secret = totp_pending, totp_pending = NULL, totp_step = :step, version = version + 1
WHERE shop_id = :shop_id AND id = :id AND totp_pending IS NOT NULL;

-- name: drop_second_factor(shop_id, id)!
UPDATE people SET totp_secret = NULL, totp_pending = NULL, version = version + 1 WHERE shop_id = :shop_id AND id = :id;

-- name: use_step(shop_id, id, step)!
UPDATE people SET totp_step = :step WHERE shop_id = :shop_id AND id = :id AND totp_step < :step;

-- name: add_one_time(digest, shop_id, person_id, kind, made_by, minutes)!
INSERT INTO one_time_links (digest, shop_id, person_id, kind, made_by, ends_at)
VALUES (:digest, :shop_id, :person_id, :kind, :made_by, UTC_TIMESTAMP() + INTERVAL :minutes MINUTE);

-- name: end_one_time(shop_id, person_id, kind)!
UPDATE one_time_links SET used_at = UTC_TIMESTAMP()
WHERE shop_id = :shop_id AND person_id = :person_id AND kind = :kind AND used_at IS NULL;

-- name: open_one_time(digest)^
SELECT l.shop_id, l.person_id, l.kind, p.name, p.login, s.name AS shop FROM one_time_links l
JOIN people p ON p.id = l.person_id AND p.put_away_at IS NULL JOIN shop s ON s.id = l.shop_id
WHERE l.digest = :digest AND l.used_at IS NULL AND l.ends_at > UTC_TIMESTAMP();

-- name: use_one_time(digest)!
UPDATE one_time_links SET used_at = UTC_TIMESTAMP()
WHERE digest = :digest AND used_at IS NULL AND ends_at > UTC_TIMESTAMP();

-- name: count_codes(shop_id, person_id)$
SELECT COUNT(*) FROM one_time_links WHERE shop_id = :shop_id AND person_id = :person_id AND kind = 'code' AND used_at IS NULL;

-- name: add_session(digest, shop_id, person_id, half, hours, browser, address)!
INSERT INTO sessions (digest, shop_id, person_id, half, ends_at, browser, address)
VALUES (:digest, :shop_id, :person_id, :half, UTC_TIMESTAMP() + INTERVAL :hours HOUR, :browser, :address);

-- name: get_session(digest)^
SELECT x.shop_id, x.person_id, x.half, p.name, p.login, p.role, s.name AS shop, x.seen_at < UTC_TIMESTAMP() - INTERVAL 60 SECOND AS stale
FROM sessions x JOIN people p ON p.id = x.person_id JOIN shop s ON s.id = x.shop_id
WHERE x.digest = :digest AND x.ends_at > UTC_TIMESTAMP() AND p.put_away_at IS NULL
  AND x.seen_at > UTC_TIMESTAMP() - INTERVAL (IF(x.half, LEAST(s.idle_minutes, 10), s.idle_minutes)) MINUTE
  AND x.made_at < UTC_TIMESTAMP() + INTERVAL 10 MINUTE;

-- name: touch_session(digest)!
UPDATE sessions SET seen_at = UTC_TIMESTAMP() WHERE digest = :digest;

-- name: end_session(digest)!
DELETE FROM sessions WHERE digest = :digest;

-- name: end_sessions(shop_id, person_id, but_digest)!
DELETE FROM sessions WHERE shop_id = :shop_id AND person_id = :person_id AND digest <> :but_digest;

-- name: list_sessions(shop_id, person_id)
SELECT x.digest, x.made_at, x.seen_at, x.ends_at, x.browser, x.address FROM sessions x JOIN shop s ON s.id = x.shop_id
WHERE x.shop_id = :shop_id AND x.person_id = :person_id AND NOT x.half AND x.ends_at > UTC_TIMESTAMP()
  AND x.seen_at > UTC_TIMESTAMP() - INTERVAL s.idle_minutes MINUTE
ORDER BY x.seen_at DESC LIMIT 50;

-- name: sweep_sessions()!
DELETE FROM sessions WHERE ends_at < UTC_TIMESTAMP() - INTERVAL 7 DAY;

-- name: count_guesses(subject, minutes)^
SELECT COUNT(*) AS tries, TIMESTAMPDIFF(SECOND, MIN(at), UTC_TIMESTAMP()) AS oldest_s FROM wrong_guesses
WHERE subject = :subject AND at > UTC_TIMESTAMP() - INTERVAL :minutes MINUTE AND at <= UTC_TIMESTAMP() + INTERVAL 1 MINUTE;

-- name: add_guess(subject)!
INSERT INTO wrong_guesses (subject) VALUES (:subject);

-- name: forgive(subject)!
DELETE FROM wrong_guesses WHERE subject = :subject;

-- name: forgive_one(subject)!
DELETE FROM wrong_guesses WHERE subject = :subject ORDER BY id DESC LIMIT 1;

-- name: sweep_guesses()!
DELETE FROM wrong_guesses WHERE at < UTC_TIMESTAMP() - INTERVAL 1 DAY;

-- name: add_audit(shop_id, person_id, what, about, address)!
INSERT INTO audit (shop_id, person_id, what, about, address) VALUES (:shop_id, :person_id, :what, :about, :address);

-- name: list_audit(shop_id, person_id, before, most)
SELECT a.id, a.at, a.what, a.about, a.address, COALESCE(p.name, '') AS name FROM audit a
LEFT JOIN people p ON p.id = a.person_id
WHERE a.shop_id = :shop_id AND (:person_id = 0 OR a.person_id = :person_id) AND (:before = 0 OR a.id < :before)
ORDER BY a.id DESC LIMIT :most;

-- name: person_named(shop_id, name)^
SELECT id FROM people WHERE shop_id = :shop_id AND name = :name AND login IS NULL ORDER BY id LIMIT 1;

-- name: person_by_login(login)^
SELECT id, shop_id FROM people WHERE login = :login;
