ALTER TABLE `servers` ADD `tool_since` text DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE `servers` ADD `reviewed` text;