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
INSERT INTO "alembic_version" VALUES('0009');
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
CREATE TABLE follow_up (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	kind VARCHAR(20) NOT NULL, 
	says VARCHAR(500) NOT NULL, 
	due_on DATE NOT NULL, 
	settled_at DATETIME, 
	settled VARCHAR(500), 
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
CREATE TABLE motor (
	id INTEGER NOT NULL, 
	unit_id INTEGER NOT NULL, 
	plate JSON NOT NULL, 
	installation JSON NOT NULL, 
	installed_at DATETIME, 
	removed_at DATETIME, place VARCHAR(120), found_good JSON, 
	PRIMARY KEY (id), 
	FOREIGN KEY(unit_id) REFERENCES unit (id)
);
CREATE TABLE "part_used" (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	part_no VARCHAR(200) NOT NULL, 
	quantity INTEGER NOT NULL, 
	van VARCHAR(60) NOT NULL, 
	booked_at DATETIME NOT NULL, 
	source VARCHAR(60) DEFAULT '' NOT NULL, 
	PRIMARY KEY (id), 
	CONSTRAINT used_counts CHECK (quantity > 0), 
	FOREIGN KEY(call_id) REFERENCES call (id)
);
CREATE TABLE photograph (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	subject VARCHAR(40) NOT NULL, 
	media_type VARCHAR(40) NOT NULL, 
	sha256 VARCHAR(64) NOT NULL, 
	content BLOB NOT NULL, 
	taken_at DATETIME NOT NULL, 
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
CREATE TABLE reading (
	id INTEGER NOT NULL, 
	call_id INTEGER NOT NULL, 
	position INTEGER NOT NULL, 
	kind VARCHAR(40) NOT NULL, 
	body JSON NOT NULL, 
	technician_id INTEGER, 
	PRIMARY KEY (id), 
	CONSTRAINT position_counts CHECK (position >= 0), 
	FOREIGN KEY(call_id) REFERENCES call (id), 
	FOREIGN KEY(technician_id) REFERENCES technician (id), 
	UNIQUE (call_id, position)
);
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
CREATE TABLE technician (
	id INTEGER NOT NULL, 
	name VARCHAR(200) NOT NULL, van VARCHAR(60), 
	PRIMARY KEY (id), 
	UNIQUE (name)
);
CREATE TABLE unit (
	id INTEGER NOT NULL, 
	site_id INTEGER NOT NULL, 
	name VARCHAR(200) NOT NULL, 
	plate JSON NOT NULL, practice BOOLEAN DEFAULT 0 NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(site_id) REFERENCES site (id), 
	UNIQUE (site_id, name)
);
CREATE TABLE van_part (
	van VARCHAR(60) NOT NULL, 
	part_no VARCHAR(200) NOT NULL, 
	kind VARCHAR(20) NOT NULL, 
	sections_uf VARCHAR(200), 
	volts_v DOUBLE, 
	shape VARCHAR(20), 
	height_in DOUBLE, 
	quantity INTEGER NOT NULL, 
	PRIMARY KEY (van, part_no), 
	CONSTRAINT van_kind_is_known CHECK (kind in ('motor', 'capacitor', 'part')), 
	CONSTRAINT quantity_counts CHECK (quantity >= 0)
);
CREATE INDEX ix_unit_site_id ON unit (site_id);
CREATE INDEX ix_motor_unit_id ON motor (unit_id);
CREATE INDEX ix_act_call_id ON act (call_id);
CREATE INDEX ix_photograph_call_id ON photograph (call_id);
CREATE INDEX ix_reading_call_id ON reading (call_id);
CREATE INDEX ix_step_call_id ON step (call_id);
CREATE INDEX ix_catalogue_cut ON catalogue_motor (phase, hz, kind, rpm_low, rpm_high, volts_low, volts_high, amps_a, hp, shaft_in, ambient_c);
CREATE INDEX ix_follow_up_call_id ON follow_up (call_id);
CREATE INDEX ix_follow_up_due_on ON follow_up (due_on);
CREATE INDEX ix_practice_ended_at ON practice (ended_at);
CREATE INDEX ix_sign_in_account ON sign_in (account);
CREATE INDEX ix_act_done_at ON act (done_at);
CREATE INDEX ix_call_motor_id ON call (motor_id);
CREATE INDEX ix_call_found_by ON call (opened_at, search_text, practice);
CREATE INDEX ix_call_open ON call (closed_at, opened_at);
CREATE INDEX ix_part_used_call_id ON part_used (call_id);
COMMIT;
