"""The invented demo shop: Nettlefold Sound & Wire of Pellmoor. Every name, part and person here is made up."""
