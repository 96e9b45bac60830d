-- Version 104: single lines that a menu item grows have settings of their own, and items stand below them.
ALTER TABLE entries
    ADD grown json,                        -- by the pages of the lines; null for none
    ADD under_page bigint REFERENCES pages -- of the line of the parent's run below which the item stands
        DEFERRABLE INITIALLY DEFERRED;
