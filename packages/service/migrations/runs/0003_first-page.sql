ALTER TABLE `runs` ADD `entries` text DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `spans` text DEFAULT '[]' NOT NULL;