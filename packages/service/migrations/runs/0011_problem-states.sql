UPDATE `problems` SET `state` = 'resolved' WHERE `state` = 'mended';--> statement-breakpoint
UPDATE `problems` SET `state` = 'recurring' WHERE `state` = 'returned';
