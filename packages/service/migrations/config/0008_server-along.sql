ALTER TABLE `servers` ADD `also` text DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `servers` ADD `headers` text DEFAULT '{}' NOT NULL;