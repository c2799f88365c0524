CREATE TABLE `problems` (
	`fingerprint` text PRIMARY KEY NOT NULL,
	`code` text NOT NULL,
	`severity` text NOT NULL,
	`flow` text NOT NULL,
	`finding` text NOT NULL,
	`times` integer NOT NULL,
	`first_run` text NOT NULL,
	`first_at` integer NOT NULL,
	`last_run` text NOT NULL,
	`last_at` integer NOT NULL,
	`since_revision` integer,
	`state` text DEFAULT 'open' NOT NULL,
	`until` integer,
	`note` text DEFAULT '' NOT NULL,
	`by` text,
	`changed_at` integer
);
--> statement-breakpoint
CREATE INDEX `problems_by_last` ON `problems` (`last_at`);--> statement-breakpoint
CREATE TABLE `sightings` (
	`fingerprint` text NOT NULL,
	`run` text NOT NULL,
	`code` text NOT NULL,
	`severity` text NOT NULL,
	`flow` text NOT NULL,
	`tool` text,
	`caller` text NOT NULL,
	`revision` integer,
	`at` integer NOT NULL,
	`tokens` integer DEFAULT 0 NOT NULL,
	PRIMARY KEY(`fingerprint`, `run`)
);
--> statement-breakpoint
CREATE INDEX `sightings_by_time` ON `sightings` (`fingerprint`,`at`);--> statement-breakpoint
CREATE INDEX `sightings_by_run` ON `sightings` (`run`);--> statement-breakpoint
CREATE INDEX `sightings_by_code` ON `sightings` (`code`,`run`);--> statement-breakpoint
ALTER TABLE `findings` ADD `version` integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `findings` ADD `code` text;--> statement-breakpoint
ALTER TABLE `findings` ADD `severity` text;