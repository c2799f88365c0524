CREATE TABLE `mcp_call_streams` (
	`id` text PRIMARY KEY NOT NULL,
	`session` text NOT NULL,
	`request` text NOT NULL,
	`tool` text NOT NULL,
	`run` text NOT NULL,
	`created_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `hook_messages` (
	`entry` text NOT NULL,
	`id` text NOT NULL,
	`at` integer NOT NULL,
	PRIMARY KEY(`entry`, `id`)
);
--> statement-breakpoint
CREATE INDEX `hook_messages_by_time` ON `hook_messages` (`at`);--> statement-breakpoint
CREATE TABLE `ledger` (
	`key` text PRIMARY KEY NOT NULL,
	`run` text NOT NULL,
	`at` integer NOT NULL,
	`outcome` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `ledger_by_run` ON `ledger` (`run`);--> statement-breakpoint
ALTER TABLE `credentials` ADD `origins` text;