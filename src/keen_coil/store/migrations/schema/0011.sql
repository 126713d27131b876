BEGIN TRANSACTION;
CREATE TABLE account (
	name VARCHAR(200) NOT NULL, 
	role VARCHAR(20) NOT NULL, 
	password VARCHAR(300) NOT NULL, 
	changed_at DATETIME NOT NULL, 
	PRIMARY KEY (name), 
	CONSTRAINT role_is_known CHECK (role in ('technician', 'manager'))
);
CREATE TABLE act (
	id VARCHAR(64) NOT NULL, 
	name VARCHAR(40) NOT NULL, 
	call_id INTEGER, 
	done_at DATETIME NOT NULL, version INTEGER, who VARCHAR(200), says VARCHAR(300), 
	PRIMARY KEY (id), 
	FOREIGN KEY(call_id) REFERENCES call (id)
);
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0011');
CREATE TABLE "call" (
	id INTEGER NOT NULL, 
	motor_id INTEGER NOT NULL, 
	technician_id INTEGER, 
	opened_at DATETIME NOT NULL, 
	closed_at DATETIME, 
	version INTEGER NOT NULL, 
	complaint JSON NOT NULL, 
	meters JSON NOT NULL, 
	power VARCHAR(20) DEFAULT 'energised' NOT NULL, 
	power_at DATETIME, 
	school VARCHAR(20) DEFAULT 'amps' NOT NULL, 
	chosen JSON, 
	outcome JSON, 
	"plan" JSON DEFAULT '{}' NOT NULL, 
	van VARCHAR(60), 
	search_text TEXT DEFAULT ('') NOT NULL, 
	practice BOOLEAN DEFAULT 0 NOT NULL, 
	changes JSON DEFAULT '{}' NOT NULL, 
	uid VARCHAR(36) NOT NULL, 
	PRIMARY KEY (id), 
	CONSTRAINT power_is_known CHECK (power in ('energised', 'dead')), 
	CONSTRAINT version_counts CHECK (version >= 1), 
	CONSTRAINT school_is_known CHECK (school in ('amps', 'hp_amps', 'ten_percent', 'like')), 
	FOREIGN KEY(technician_id) REFERENCES technician (id), 
	FOREIGN KEY(motor_id) REFERENCES motor (id)
);
CREATE TABLE catalogue_motor (
	part_no VARCHAR(200) NOT NULL, 
	kind VARCHAR(20) NOT NULL, 
	phase INTEGER NOT NULL, 
	hz INTEGER NOT NULL, 
	rpm DOUBLE NOT NULL, 
	rpm_low DOUBLE NOT NULL, 
	rpm_high DOUBLE NOT NULL, 
	plate JSON NOT NULL, volts_low DOUBLE, volts_high DOUBLE, amps_a DOUBLE, hp DOUBLE, shaft_in DOUBLE, ambient_c DOUBLE, role VARCHAR(20), search_text VARCHAR(800) DEFAULT '' NOT NULL, 
	PRIMARY KEY (part_no)
);
CREATE TABLE clock_check (
	observer VARCHAR(36) NOT NULL, 
	origin VARCHAR(36) NOT NULL, 
	upto BIGINT NOT NULL, 
	ahead_ms BIGINT NOT NULL, 
	PRIMARY KEY (observer, origin, upto)
);
CREATE TABLE exchange (
	id INTEGER NOT NULL, 
	replica_id INTEGER NOT NULL, 
	at DATETIME NOT NULL, 
	way VARCHAR(10) NOT NULL, 
	who VARCHAR(200), 
	came JSON NOT NULL, 
	went JSON NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(replica_id) REFERENCES replica (id)
);
CREATE TABLE "follow_up" (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	kind VARCHAR(20) NOT NULL, 
	says VARCHAR(500) NOT NULL, 
	due_on DATE NOT NULL, 
	settled_at DATETIME, 
	settled VARCHAR(500), 
	uid VARCHAR(36) NOT NULL, 
	PRIMARY KEY (id), 
	CONSTRAINT follow_up_kind_is_known CHECK (kind in ('temporary', 'unfinished', 'watch')), 
	FOREIGN KEY(call_id) REFERENCES call (id)
);
CREATE TABLE import_draft (
	id VARCHAR(64) NOT NULL, 
	what VARCHAR(20) NOT NULL, 
	name VARCHAR(200) NOT NULL, 
	content BLOB NOT NULL, 
	made_at DATETIME NOT NULL, 
	report JSON, van VARCHAR(60) DEFAULT 'Van 1' NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE laptop (
	uid VARCHAR(36) NOT NULL, 
	role VARCHAR(20) NOT NULL, 
	account VARCHAR(200), 
	paired_at DATETIME NOT NULL, 
	told_off_at DATETIME, 
	PRIMARY KEY (uid), 
	CONSTRAINT laptop_role_is_known CHECK (role in ('technician', 'manager'))
);
CREATE TABLE mark (
	nonce VARCHAR(36) NOT NULL, 
	origin VARCHAR(36) NOT NULL, 
	stamp BIGINT NOT NULL, 
	PRIMARY KEY (nonce)
);
CREATE TABLE "motor" (
	id INTEGER NOT NULL, 
	unit_id INTEGER NOT NULL, 
	plate JSON NOT NULL, 
	installation JSON NOT NULL, 
	installed_at DATETIME, 
	removed_at DATETIME, 
	place VARCHAR(120), 
	found_good JSON, 
	uid VARCHAR(36) NOT NULL, 
	joined_into VARCHAR(36), 
	PRIMARY KEY (id), 
	FOREIGN KEY(unit_id) REFERENCES unit (id)
);
CREATE TABLE part_touched (
	in_table VARCHAR(40) NOT NULL, 
	row_key VARCHAR(400) NOT NULL, 
	part VARCHAR(40) NOT NULL, 
	stamp BIGINT NOT NULL, 
	PRIMARY KEY (in_table, row_key, part)
);
CREATE TABLE "part_used" (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	part_no VARCHAR(200) NOT NULL, 
	quantity INTEGER NOT NULL, 
	van VARCHAR(60) NOT NULL, 
	booked_at DATETIME NOT NULL, 
	source VARCHAR(60) DEFAULT ('') NOT NULL, 
	uid VARCHAR(36) NOT NULL, 
	PRIMARY KEY (id), 
	CONSTRAINT used_counts CHECK (quantity > 0), 
	FOREIGN KEY(call_id) REFERENCES call (id)
);
CREATE TABLE part_write (
	id INTEGER NOT NULL, 
	in_table VARCHAR(40) NOT NULL, 
	row_key VARCHAR(400) NOT NULL, 
	part VARCHAR(40) NOT NULL, 
	replica_id INTEGER NOT NULL, 
	stamp BIGINT NOT NULL, 
	over TEXT, 
	value TEXT, 
	PRIMARY KEY (id), 
	FOREIGN KEY(replica_id) REFERENCES replica (id)
);
CREATE TABLE "photograph" (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	subject VARCHAR(40) NOT NULL, 
	media_type VARCHAR(40) NOT NULL, 
	sha256 VARCHAR(64) NOT NULL, 
	content BLOB NOT NULL, 
	taken_at DATETIME NOT NULL, 
	uid VARCHAR(36) NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(call_id) REFERENCES call (id)
);
CREATE TABLE practice (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	technician_id INTEGER, 
	begun_at DATETIME NOT NULL, 
	ended_at DATETIME, 
	"case" JSON NOT NULL, 
	family VARCHAR(20) NOT NULL, 
	rung VARCHAR(40), 
	day DATE, 
	advice BOOLEAN NOT NULL, 
	done JSON NOT NULL, 
	leads JSON, 
	score JSON, 
	is_right BOOLEAN, 
	PRIMARY KEY (id), 
	FOREIGN KEY(call_id) REFERENCES call (id), 
	FOREIGN KEY(technician_id) REFERENCES technician (id), 
	UNIQUE (call_id)
);
CREATE TABLE practice_file (
	id INTEGER NOT NULL, 
	title VARCHAR(200) NOT NULL, 
	added_at DATETIME NOT NULL, 
	"case" JSON NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (title)
);
CREATE TABLE "reading" (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	position INTEGER NOT NULL, 
	kind VARCHAR(40) NOT NULL, 
	body JSON NOT NULL, 
	technician_id INTEGER, 
	uid VARCHAR(36) NOT NULL, 
	PRIMARY KEY (id), 
	CONSTRAINT uq_reading_call_id UNIQUE (call_id, position), 
	CONSTRAINT position_counts CHECK (position >= 0), 
	FOREIGN KEY(technician_id) REFERENCES technician (id), 
	FOREIGN KEY(call_id) REFERENCES call (id)
);
CREATE TABLE replica (
	id INTEGER NOT NULL, 
	uid VARCHAR(36) NOT NULL, 
	name VARCHAR(80) NOT NULL, 
	is_shop BOOLEAN NOT NULL, 
	knows BIGINT NOT NULL, 
	heard_at DATETIME, 
	their_knows JSON, public_key VARCHAR(64), after_uid VARCHAR(36), after_proof VARCHAR(128), 
	PRIMARY KEY (id), 
	UNIQUE (uid)
);
INSERT INTO "replica" VALUES(1,'01a22b19-8b97-7452-84f4-6a25547ae7b1','',1,0,NULL,NULL,NULL,NULL,NULL);
CREATE TABLE replica_clock (
	id INTEGER NOT NULL, 
	stamp BIGINT NOT NULL, 
	is_merging BOOLEAN DEFAULT 0 NOT NULL, 
	is_new BOOLEAN DEFAULT 1 NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "replica_clock" VALUES(1,117703928981159936,0,1);
CREATE TABLE replica_key (
	id INTEGER NOT NULL, 
	secret BLOB NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "replica_key" VALUES(1,X'A2C2F2ACFDE30FFF373E6F0AA1DBBFFF918EAEA8F7A3C8FFF7F394F3F19D6DBA');
CREATE TABLE setting (
	name VARCHAR(60) NOT NULL, 
	value JSON NOT NULL, 
	changed_at DATETIME NOT NULL, 
	PRIMARY KEY (name)
);
CREATE TABLE sign_in (
	id VARCHAR(64) NOT NULL, 
	account VARCHAR(200) NOT NULL, 
	made_at DATETIME NOT NULL, 
	seen_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(account) REFERENCES account (name)
);
CREATE TABLE sign_in_failure (
	"key" VARCHAR(200) NOT NULL, 
	count INTEGER NOT NULL, 
	last_at DATETIME NOT NULL, 
	PRIMARY KEY ("key")
);
CREATE TABLE signed_writes (
	id INTEGER NOT NULL, 
	replica_id INTEGER NOT NULL, 
	upto BIGINT NOT NULL, 
	prints BLOB NOT NULL, 
	signature VARCHAR(128) NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(replica_id) REFERENCES replica (id), 
	UNIQUE (signature)
);
CREATE TABLE site (
	id INTEGER NOT NULL, 
	name VARCHAR(200) NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (name)
);
CREATE TABLE step (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	station VARCHAR(40) NOT NULL, 
	step VARCHAR(60) NOT NULL, 
	done_at DATETIME NOT NULL, skipped VARCHAR(500), 
	PRIMARY KEY (id), 
	FOREIGN KEY(call_id) REFERENCES call (id), 
	UNIQUE (call_id, station, step)
);
CREATE TABLE stock_movement (
	id INTEGER NOT NULL, 
	uid VARCHAR(36) NOT NULL, 
	van VARCHAR(60) NOT NULL, 
	part_no VARCHAR(200) NOT NULL, 
	kind VARCHAR(20) NOT NULL, 
	quantity INTEGER NOT NULL, 
	other_van VARCHAR(60), 
	call_id INTEGER, 
	who VARCHAR(200), 
	moved_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	CONSTRAINT movement_kind_is_known CHECK (kind in ('booked', 'restocked', 'counted', 'moved')), 
	FOREIGN KEY(call_id) REFERENCES call (id)
);
CREATE TABLE sync_partner (
	id INTEGER NOT NULL, 
	address VARCHAR(300) NOT NULL, 
	token VARCHAR(100) NOT NULL, 
	certificate TEXT, 
	PRIMARY KEY (id)
);
CREATE TABLE sync_token (
	id VARCHAR(64) NOT NULL, 
	account VARCHAR(200) NOT NULL, 
	made_at DATETIME NOT NULL, 
	used_at DATETIME, name VARCHAR(80) DEFAULT '' NOT NULL, expires_at DATETIME, counted_on DATE, bytes_today BIGINT DEFAULT 0 NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(account) REFERENCES account (name)
);
CREATE TABLE technician (
	id INTEGER NOT NULL, 
	name VARCHAR(200) NOT NULL, van VARCHAR(60), 
	PRIMARY KEY (id), 
	UNIQUE (name)
);
CREATE TABLE "unit" (
	id INTEGER NOT NULL, 
	site_id INTEGER NOT NULL, 
	name VARCHAR(200) NOT NULL, 
	plate JSON NOT NULL, 
	practice BOOLEAN DEFAULT 0 NOT NULL, 
	uid VARCHAR(36) NOT NULL, 
	joined_into VARCHAR(36), 
	PRIMARY KEY (id), 
	FOREIGN KEY(site_id) REFERENCES site (id)
);
CREATE TABLE "van_part" (
	van VARCHAR(60) NOT NULL, 
	part_no VARCHAR(200) NOT NULL, 
	kind VARCHAR(20) NOT NULL, 
	sections_uf VARCHAR(200), 
	volts_v DOUBLE, 
	shape VARCHAR(20), 
	height_in DOUBLE, 
	quantity INTEGER NOT NULL, 
	PRIMARY KEY (van, part_no), 
	CONSTRAINT van_kind_is_known CHECK (kind in ('motor', 'capacitor', 'part'))
);
CREATE TABLE waiting_picture (
	sha256 VARCHAR(64) NOT NULL, 
	content BLOB NOT NULL, 
	came_at DATETIME NOT NULL, 
	PRIMARY KEY (sha256)
);
CREATE INDEX ix_act_call_id ON act (call_id);
CREATE INDEX ix_step_call_id ON step (call_id);
CREATE INDEX ix_catalogue_cut ON catalogue_motor (phase, hz, kind, rpm_low, rpm_high, volts_low, volts_high, amps_a, hp, shaft_in, ambient_c);
CREATE INDEX ix_practice_ended_at ON practice (ended_at);
CREATE INDEX ix_sign_in_account ON sign_in (account);
CREATE INDEX ix_act_done_at ON act (done_at);
CREATE INDEX ix_unit_site_id ON unit (site_id);
CREATE UNIQUE INDEX ix_unit_uid ON unit (uid);
CREATE INDEX ix_motor_unit_id ON motor (unit_id);
CREATE UNIQUE INDEX ix_motor_uid ON motor (uid);
CREATE INDEX ix_call_found_by ON call (opened_at, search_text, practice);
CREATE INDEX ix_call_open ON call (closed_at, opened_at);
CREATE INDEX ix_call_motor_id ON call (motor_id);
CREATE UNIQUE INDEX ix_call_uid ON call (uid);
CREATE INDEX ix_reading_call_id ON reading (call_id);
CREATE UNIQUE INDEX ix_reading_uid ON reading (uid);
CREATE INDEX ix_follow_up_due_on ON follow_up (due_on);
CREATE INDEX ix_follow_up_call_id ON follow_up (call_id);
CREATE UNIQUE INDEX ix_follow_up_uid ON follow_up (uid);
CREATE INDEX ix_part_used_call_id ON part_used (call_id);
CREATE UNIQUE INDEX ix_part_used_uid ON part_used (uid);
CREATE INDEX ix_photograph_call_id ON photograph (call_id);
CREATE UNIQUE INDEX ix_photograph_uid ON photograph (uid);
CREATE INDEX ix_photograph_sha256 ON photograph (sha256);
CREATE UNIQUE INDEX ix_stock_movement_uid ON stock_movement (uid);
CREATE INDEX ix_stock_movement_call_id ON stock_movement (call_id);
CREATE INDEX ix_stock_movement_part ON stock_movement (van, part_no);
CREATE INDEX ix_part_write_address ON part_write (in_table, row_key, part);
CREATE INDEX ix_part_write_act ON part_write (replica_id, stamp);
CREATE INDEX ix_part_write_beside ON part_write (in_table, row_key) WHERE value IS NOT NULL;
CREATE INDEX ix_mark_origin ON mark (origin);
CREATE INDEX ix_exchange_replica_id ON exchange (replica_id);
CREATE INDEX ix_sync_token_account ON sync_token (account);
CREATE INDEX ix_signed_writes_replica_id ON signed_writes (replica_id);
COMMIT;
