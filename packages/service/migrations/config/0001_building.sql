CREATE TABLE `documents` (
	`name` text PRIMARY KEY NOT NULL,
	`url` text,
	`title` text NOT NULL,
	`version` text NOT NULL,
	`credential` text,
	`base` text NOT NULL,
	`made` text NOT NULL,
	`read_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `entries` (
	`id` text PRIMARY KEY NOT NULL,
	`flow` text NOT NULL,
	`kind` text NOT NULL,
	`path` text NOT NULL,
	`on` integer NOT NULL,
	`settings` text NOT NULL,
	`sealed` text,
	`created_at` integer NOT NULL,
	`used_at` integer
);
--> statement-breakpoint
CREATE UNIQUE INDEX `entries_by_path` ON `entries` (`kind`,`path`);--> statement-breakpoint
CREATE TABLE `held` (
	`flow` text NOT NULL,
	`step` text NOT NULL,
	`sealed` text NOT NULL,
	`run` text NOT NULL,
	`held_at` integer NOT NULL,
	PRIMARY KEY(`flow`, `step`)
);
--> statement-breakpoint
CREATE TABLE `samples` (
	`flow` text NOT NULL,
	`name` text NOT NULL,
	`sealed` text NOT NULL,
	`used_at` integer NOT NULL,
	PRIMARY KEY(`flow`, `name`)
);
--> statement-breakpoint
ALTER TABLE `revisions` ADD `note` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `tables` ADD `owner` text;