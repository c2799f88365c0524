ALTER TABLE `problems` ADD `server` text;--> statement-breakpoint
ALTER TABLE `problems` ADD `rounds` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `problems` ADD `tokens` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `problems` ADD `money` real DEFAULT 0 NOT NULL;--> statement-breakpoint
UPDATE `problems` SET `tokens` = (SELECT coalesce(sum(`tokens`), 0) FROM `sightings` WHERE `sightings`.`fingerprint` = `problems`.`fingerprint`);