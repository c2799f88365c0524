CREATE TABLE `server_lists` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`server` text NOT NULL,
	`at` integer NOT NULL,
	`what` text NOT NULL,
	`by` text,
	`tools` text NOT NULL,
	`about` text DEFAULT '[]' NOT NULL
);
--> statement-breakpoint
CREATE INDEX `server_lists_server` ON `server_lists` (`server`,`id`);--> statement-breakpoint
CREATE TABLE `server_samples` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`server` text NOT NULL,
	`tool` text NOT NULL,
	`name` text NOT NULL,
	`arguments` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
ALTER TABLE `credentials` ADD `source` text;--> statement-breakpoint
ALTER TABLE `credentials` ADD `former` text;--> statement-breakpoint
ALTER TABLE `credentials` ADD `former_until` integer;--> statement-breakpoint
ALTER TABLE `credentials` ADD `used_at` integer;--> statement-breakpoint
ALTER TABLE `credentials` ADD `used` text;--> statement-breakpoint
ALTER TABLE `servers` ADD `program` text;--> statement-breakpoint
ALTER TABLE `servers` ADD `allowed` text;--> statement-breakpoint
ALTER TABLE `servers` ADD `limits` text DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE `servers` ADD `watch` text DEFAULT 'flagged' NOT NULL;--> statement-breakpoint
ALTER TABLE `servers` ADD `accepted` text;--> statement-breakpoint
ALTER TABLE `servers` ADD `held` text DEFAULT '{}' NOT NULL;