CREATE TABLE `documents` (
	`hash` text PRIMARY KEY NOT NULL,
	`body` text NOT NULL,
	`used_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `findings` (
	`run` text PRIMARY KEY NOT NULL,
	`title` text,
	`body` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `payload_uses` (
	`run` text NOT NULL,
	`hash` text NOT NULL,
	PRIMARY KEY(`run`, `hash`)
);
--> statement-breakpoint
CREATE INDEX `payload_uses_by_hash` ON `payload_uses` (`hash`);--> statement-breakpoint
CREATE TABLE `payloads` (
	`hash` text PRIMARY KEY NOT NULL,
	`bytes` integer NOT NULL,
	`body` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `runs` ADD `document` text;