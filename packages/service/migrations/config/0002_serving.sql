CREATE TABLE `mcp_sessions` (
	`hash` text PRIMARY KEY NOT NULL,
	`endpoint` text NOT NULL,
	`key` text NOT NULL,
	`client` text NOT NULL,
	`created_at` integer NOT NULL,
	`last_used_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `people` (
	`name` text PRIMARY KEY NOT NULL,
	`role` text NOT NULL,
	`password` text,
	`created_at` integer NOT NULL
);
--> statement-breakpoint
ALTER TABLE `keys` ADD `tools` text;--> statement-breakpoint
ALTER TABLE `keys` ADD `read_only` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `keys` ADD `per_minute` integer;--> statement-breakpoint
ALTER TABLE `keys` ADD `expires_at` integer;--> statement-breakpoint
ALTER TABLE `sign_ins` ADD `person` text DEFAULT 'owner' NOT NULL;