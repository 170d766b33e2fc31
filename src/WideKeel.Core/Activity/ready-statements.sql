-- Most used actions: What happens most, by how many people.
SELECT action, count(*) AS events, count(DISTINCT actor) AS people
FROM events WHERE time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY action ORDER BY events DESC

-- Refused access by person: Who was refused what, most often first.
SELECT actor, action, object, count(*) AS refused
FROM events WHERE outcome = 'failure' AND action <> 'sign-in' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY ALL ORDER BY refused DESC

-- Failures by code: Why sign-ins fail.
SELECT code, count(*) AS failures, count(DISTINCT actor) AS people, max(time) AS latest
FROM sign_ins WHERE outcome = 'failure' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY code ORDER BY failures DESC

-- Destructive acts and by whom: Deletions by person and place.
SELECT actor, container, count(*) AS deleted, min(time) AS first, max(time) AS last
FROM events WHERE action = 'file.delete' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY ALL ORDER BY deleted DESC

-- Most opened objects: What is read most, and by how many.
SELECT object, count(*) AS opened, count(DISTINCT actor) AS people
FROM events WHERE action IN ('file.read', 'file.download') AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY object ORDER BY opened DESC LIMIT 200

-- First-time countries: Sign-ins from a country in which the person never was before.
SELECT actor, country, min(time) AS first_seen
FROM sign_ins WHERE outcome = 'success' AND country IS NOT NULL
GROUP BY ALL HAVING min(time) >= $from::TIMESTAMP AND min(time) < $before::TIMESTAMP
ORDER BY first_seen DESC

-- Outside shares by target: Who outside was given how much.
SELECT target, count(*) AS shares, count(DISTINCT actor) AS by_people, max(time) AS latest
FROM events WHERE category = 'sharing' AND target IS NOT NULL AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY target ORDER BY shares DESC

-- Links that anyone opens: Who made them, to what.
SELECT time, actor, object, container FROM events
WHERE action = 'share.link' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP ORDER BY time DESC

-- Forwarding set: Mailboxes that send elsewhere.
SELECT time, actor, object, target FROM events
WHERE action = 'mail.forward-set' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP ORDER BY time DESC

-- Dormant accounts that woke: Accounts that did something after 30 quiet days.
SELECT actor, time, previous, date_diff('day', previous, time) AS quiet_days FROM (
  SELECT actor, time, lag(time) OVER (PARTITION BY actor ORDER BY time) AS previous FROM events WHERE actor IS NOT NULL
) WHERE date_diff('day', previous, time) >= 30 AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP ORDER BY time DESC

-- Logging stopped: When a log was switched off, and when on again.
SELECT time, action, actor, device, channel FROM events
WHERE action IN ('log.stop', 'log.start') AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP ORDER BY time

-- Machines of a person: Which devices each person used.
SELECT actor, device, count(*) AS events, min(time) AS first, max(time) AS last
FROM events WHERE device IS NOT NULL AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY ALL ORDER BY actor, events DESC

-- Which machine had the address: The last lease of an address before each deletion.
SELECT d.time, d.actor, d.object, d.address, l.device, l.time AS leased
FROM (SELECT * FROM events WHERE action = 'file.delete' AND address IS NOT NULL AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP) d
ASOF LEFT JOIN (SELECT address, device, time FROM events WHERE action = 'device.lease') l
  ON d.address = l.address AND d.time >= l.time
ORDER BY d.time DESC

-- Downloads by volume: Who took how many bytes.
SELECT actor, sum(amount) AS bytes, count(*) AS files
FROM events WHERE action = 'file.download' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY actor ORDER BY bytes DESC NULLS LAST

-- Night work: What happened between ten at night and five in the morning (UTC).
SELECT actor, action, count(*) AS events FROM events
WHERE (hour(time) >= 22 OR hour(time) < 5) AND actor_kind = 'person' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY ALL ORDER BY events DESC

-- Weekend work: Who was active on Saturdays and Sundays.
SELECT actor, count(*) AS events, count(DISTINCT date_trunc('day', time)) AS days FROM events
WHERE isodow(time) >= 6 AND actor_kind = 'person' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY actor ORDER BY events DESC

-- Events by hour of the day: When the organisation works.
SELECT hour(time) AS hour, count(*) AS events FROM events WHERE time >= $from::TIMESTAMP AND time < $before::TIMESTAMP GROUP BY hour ORDER BY hour

-- Roles given: Who gave which role to whom.
SELECT time, actor, object AS role, target FROM events
WHERE action = 'role.add' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP ORDER BY time DESC

-- Consents to applications: Which applications were let in, and by whom.
SELECT time, actor, object AS application, target FROM events
WHERE action = 'app.consent' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP ORDER BY time DESC

-- Accounts made and disabled: The life of accounts.
SELECT time, action, actor, target FROM events
WHERE action IN ('account.create', 'account.disable') AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP ORDER BY time DESC

-- After they left: Events of people after their last day.
SELECT p.name, p.leaves_on, e.time, e.action, e.object, e.address, e.country
FROM events e JOIN people p ON p.mail = e.actor
WHERE p.leaves_on IS NOT NULL AND e.time > p.leaves_on + INTERVAL 1 DAY AND e.time >= $from::TIMESTAMP AND e.time < $before::TIMESTAMP
ORDER BY e.time DESC

-- One address, many accounts: Addresses from which several accounts failed.
SELECT address, count(DISTINCT actor) AS accounts, count(*) AS failures
FROM sign_ins WHERE outcome = 'failure' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY address HAVING count(DISTINCT actor) > 2 ORDER BY accounts DESC

-- One account, many addresses: Accounts that were tried from many addresses.
SELECT actor, count(DISTINCT address) AS addresses, count(*) AS failures, min(time) AS first, max(time) AS last
FROM sign_ins WHERE outcome = 'failure' AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP
GROUP BY actor HAVING count(DISTINCT address) > 2 ORDER BY addresses DESC

-- Activity by unit: How much each unit does.
SELECT unit, count(*) AS events, count(DISTINCT actor) AS people FROM events
WHERE unit IS NOT NULL AND time >= $from::TIMESTAMP AND time < $before::TIMESTAMP GROUP BY unit ORDER BY events DESC
