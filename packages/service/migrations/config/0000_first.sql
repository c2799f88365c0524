CREATE TABLE `memories` (
	`key` text PRIMARY KEY NOT NULL,
	`turns` text NOT NULL,
	`updated_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `credentials` (
	`name` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`header` text,
	`account` text NOT NULL,
	`sealed` text NOT NULL,
	`created_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `endpoints` (
	`name` text PRIMARY KEY NOT NULL,
	`document` text NOT NULL,
	`updated_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `flows` (
	`name` text PRIMARY KEY NOT NULL,
	`text` text NOT NULL,
	`document` text NOT NULL,
	`live` integer,
	`updated_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `revisions` (
	`flow` text NOT NULL,
	`revision` integer NOT NULL,
	`text` text NOT NULL,
	`document` text NOT NULL,
	`published_at` integer NOT NULL,
	PRIMARY KEY(`flow`, `revision`)
);
--> statement-breakpoint
CREATE TABLE `keys` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`hash` text NOT NULL,
	`beginning` text NOT NULL,
	`caller` text NOT NULL,
	`attributes` text NOT NULL,
	`stage` text NOT NULL,
	`endpoints` text NOT NULL,
	`manage` integer NOT NULL,
	`created_at` integer NOT NULL,
	`last_used_at` integer,
	`revoked_at` integer
);
--> statement-breakpoint
CREATE UNIQUE INDEX `keys_hash_unique` ON `keys` (`hash`);--> statement-breakpoint
CREATE TABLE `models` (
	`name` text PRIMARY KEY NOT NULL,
	`dialect` text NOT NULL,
	`base` text NOT NULL,
	`model` text NOT NULL,
	`credential` text,
	`settings` text NOT NULL,
	`tested_at` integer,
	`trouble` text
);
--> statement-breakpoint
CREATE TABLE `sign_ins` (
	`hash` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`expires_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `servers` (
	`name` text PRIMARY KEY NOT NULL,
	`url` text NOT NULL,
	`credential` text,
	`rules` text NOT NULL,
	`tools` text NOT NULL,
	`about` text NOT NULL,
	`seen_at` integer
);
--> statement-breakpoint
CREATE TABLE `tables` (
	`name` text PRIMARY KEY NOT NULL,
	`columns` text NOT NULL,
	`created_at` integer NOT NULL
);
