ALTER TABLE `approvals` ADD `grant_scope` text;--> statement-breakpoint
ALTER TABLE `approvals` ADD `granted_until` integer;--> statement-breakpoint
CREATE INDEX `approvals_open` ON `approvals` (`asked_at`) WHERE decision IS NULL;
--> statement-breakpoint
CREATE TABLE `standing_approvals` (
	`id` text PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`grant_scope` text NOT NULL,
	`flow` text NOT NULL,
	`tool` text NOT NULL,
	`origin` text NOT NULL,
	`caller` text NOT NULL,
	`run` text NOT NULL,
	`path` text NOT NULL,
	`by` text NOT NULL,
	`note` text NOT NULL,
	`at` integer NOT NULL,
	`until` integer NOT NULL,
	`revoked_by` text,
	`revoked_at` integer
);
--> statement-breakpoint
CREATE INDEX `standing_approvals_key` ON `standing_approvals` (`key`);
--> statement-breakpoint
CREATE INDEX `standing_approvals_until` ON `standing_approvals` (`until`);